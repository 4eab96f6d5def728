import { useLocalSearchParams } from 'expo-router';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { ScrollView, View } from 'react-native';
import type { Finding, FieldTypes, Loop } from '@dart-loop/core';
import { addScene, addStep, moveStep } from '@dart-loop/core/edit/edits';
import { findStep, scenesBefore } from '@dart-loop/core/model/loop';
import { fieldsOf } from '@dart-loop/core/check/fieldsOf';
import { findingsOf } from '@dart-loop/core/check/findings';
import { Dialog, Menu } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton, TextLink } from '../../ui/press';
import { Failure, Notice, StateShape, Waiting, usePageTitle } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { Cues } from './Cues';
import { EditableText, type MergeField } from './EditableText';
import { SceneSheet, NEW_STEPS } from './SceneSheet';
import { useDraft, type Draft } from './useDraft';
import { Versions } from './Versions';
import { WaysIn } from './WaysIn';
import { FindingMark } from './Findings';

const SAVING = { saved: 'saved', 'to be saved': 'saving …', saving: 'saving …', 'not saved': 'not saved' } as const;

/** A loop's script: the conversation it will be, from top to bottom. */
export function Script() {
  const { wide } = useTheme();
  const { client, loop: loopId } = useLocalSearchParams<{ client: string; loop: string }>();
  const draft = useDraft(client, loopId);
  const { loop, page } = draft;
  const scroll = useRef<ScrollView>(null);
  const [keys, setKeys] = useState(false);
  usePageTitle(loop?.name ?? 'Loop');

  // Typing goes before checking.
  const checked = useDeferredValue(loop);
  const findings = useMemo(
    () =>
      checked && page
        ? findingsOf(checked, {
            types: Object.fromEntries(page.fields.map((field) => [field.key, field.type])) as FieldTypes,
            lines: page.lines,
            brief: page.brief,
          })
        : [],
    [checked, page],
  );
  const problems = findings.filter((finding) => finding.severity === 'stops').length;
  const fields = useMemo<MergeField[]>(() => (loop && page ? mergeFields(loop, page.fields) : []), [loop, page]);
  const before = useMemo(() => (loop ? scenesBefore(loop) : new Map<string, number[]>()), [loop]);
  const show = (stepId: string) => setTimeout(() => document.querySelector<HTMLElement>(`[data-step="${stepId}"]`)?.focus(), 60);
  useScriptKeys(draft, show, () => setKeys(true));

  // The address may name a step: a person's page leads here.
  const shown = useRef(false);
  useEffect(() => {
    if (!loop || shown.current) return;
    shown.current = true;
    const named = decodeURIComponent(window.location.hash.slice(1));
    if (named && findStep(loop, named))
      setTimeout(() => {
        const line = document.querySelector<HTMLElement>(`[data-step="${CSS.escape(named)}"]`);
        line?.scrollIntoView({ block: 'center' });
        line?.focus();
      }, 100);
  }, [loop]);

  if (!loop || !page)
    return <View style={{ padding: 16 }}>{draft.error ? <Failure error={draft.error} again={draft.reload} /> : <Waiting />}</View>;

  const reached = page.live ? page.reached : null;
  return (
    <View style={{ flex: 1, flexDirection: 'row' }}>
      {wide && <Outline client={client} loop={loop} reached={reached} findings={findings} />}
      <ScrollView
        ref={scroll}
        style={{ flex: 1 }}
        contentContainerStyle={{ padding: wide ? 20 : 12, paddingBottom: 80, alignItems: 'center' }}
        tabIndex={-1}
      >
        <View style={{ width: '100%', maxWidth: 720, gap: 14 }}>
          <Head client={client} loopId={loopId} draft={draft} loop={loop} problems={problems} openKeys={() => setKeys(true)} />
          <Cues loop={loop} edit={draft.edit} />
          {loop.scenes.map((scene, index) => (
            <SceneSheet
              key={scene.id}
              loop={loop}
              scene={scene}
              index={index}
              from={before.get(scene.id) ?? []}
              reached={reached}
              findings={findings}
              fields={fields}
              edit={draft.edit}
              show={show}
            />
          ))}
          <View style={{ alignSelf: 'flex-start' }}>
            <QuietButton
              outlined
              title="Add a scene"
              onPress={() => draft.edit((each) => addScene(each, `Scene ${each.scenes.length + 1}`).loop)}
            />
          </View>
        </View>
      </ScrollView>
      <Dialog title="Keys" open={keys} onClose={() => setKeys(false)}>
        <View style={{ padding: 12, gap: 6 }}>
          {KEYS.map(([key, words]) => (
            <View key={key} style={{ flexDirection: 'row', gap: 12 }}>
              <Words kind="code" color="ink" style={{ width: 150 }}>
                {key}
              </Words>
              <Words style={{ flex: 1 }}>{words}</Words>
            </View>
          ))}
        </View>
      </Dialog>
    </View>
  );
}

const KEYS: [string, string][] = [
  ['j, k', 'the next line, the line before'],
  ['Enter', 'edit the line'],
  ['Esc, Ctrl+Enter', 'done with editing'],
  ['a', 'add a say below'],
  ['Alt+↑, Alt+↓', 'move the line'],
  ['Ctrl+Z', 'undo'],
  ['Ctrl+Shift+Z', 'redo'],
  ['g, then t i l p m', 'Today, Inbox, Loops, People, More'],
  ['?', 'this sheet'],
];

function Head({
  client,
  loopId,
  draft,
  loop,
  problems,
  openKeys,
}: {
  client: string;
  loopId: string;
  draft: Draft;
  loop: Loop;
  problems: number;
  openKeys: () => void;
}) {
  const { wide } = useTheme();
  const page = draft.page!;
  const [publishing, setPublishing] = useState(false);
  const [versions, setVersions] = useState(false);
  const [waysIn, setWaysIn] = useState(false);
  const [result, setResult] = useState<{ tone: 'quiet' | 'failing'; words: string } | null>(null);
  const changes = page.differences.length;
  const publish = async () => {
    setPublishing(true);
    setResult(null);
    try {
      await draft.publish();
      setResult({
        tone: 'quiet',
        words: `Published. The next conversation follows this version; people on the way stay on theirs, unless you move them under Versions.`,
      });
    } catch (error) {
      setResult({ tone: 'failing', words: (error as Error).message });
    } finally {
      setPublishing(false);
    }
  };
  const download = (as: 'yaml' | 'json') => window.location.assign(`/api/clients/${client}/loops/${loopId}/file?as=${as}`);
  const title = changes === 0 ? 'Published' : !page.live ? 'Publish' : `Publish ${changes === 1 ? '1 change' : `${changes} changes`}`;
  return (
    <View style={{ gap: 4 }}>
      {!wide && <TextLink href={`/${client}/loops`}>‹ Loops</TextLink>}
      <View style={{ flexDirection: 'row', alignItems: 'flex-start', justifyContent: 'space-between', gap: 12 }}>
        <View style={{ flex: 1, minWidth: 0 }}>
          <EditableText
            multiline={false}
            value={loop.name}
            label="Name of the loop"
            placeholder="Name the loop"
            onChange={(name) => draft.edit((each) => ({ ...each, name }))}
          >
            <Words kind="title">{loop.name}</Words>
          </EditableText>
        </View>
        <ActionButton
          title={title}
          busy={publishing}
          disabled={changes === 0 || problems > 0 || draft.conflict !== null}
          onPress={() => void publish()}
        />
      </View>
      <View style={{ flexDirection: 'row', alignItems: 'center', flexWrap: 'wrap' }}>
        <StateShape tone={page.live ? 'live' : 'quiet'} />
        <Words kind="small" role="status">
          {[
            page.live ? `live, version ${page.live.version}` : 'never published',
            page.peopleInIt === 1 ? '1 person in it' : `${page.peopleInIt} people in it`,
            SAVING[draft.saving],
          ].join(' · ')}
        </Words>
      </View>
      <Words kind="small">
        {changes === 0
          ? `The draft is the same as version ${page.live?.version}, published ${page.live ? whenWords(page.live.publishedAt) : ''}${page.live?.publishedBy ? ` by ${page.live.publishedBy}` : ''}.`
          : page.live
            ? `Differs from version ${page.live.version}: ${page.differences.join('; ')}.`
            : 'Everything in it is new: nothing is live until you publish.'}
      </Words>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 4, alignItems: 'center', marginLeft: -6 }}>
        <QuietButton title="Undo" disabled={!draft.canUndo} onPress={draft.undo} />
        <QuietButton title="Redo" disabled={!draft.canRedo} onPress={draft.redo} />
        <Menu
          label="Save as a file"
          title="Save the draft as a file"
          items={[
            { key: 'yaml', words: 'YAML', more: 'good to read and to keep with others', onChoose: () => download('yaml') },
            { key: 'json', words: 'JSON', more: 'good for programs', onChoose: () => download('json') },
          ]}
        >
          <Words kind="strong" style={{ fontSize: 15, paddingHorizontal: 6 }}>
            File
          </Words>
        </Menu>
        {page.live && <QuietButton title="Ways in" onPress={() => setWaysIn(true)} />}
        {page.live && <QuietButton title="Versions" onPress={() => setVersions(true)} />}
        {wide && <QuietButton title="Keys" onPress={openKeys} />}
      </View>
      <WaysIn path={`/clients/${client}/loops/${loopId}`} open={waysIn} onClose={() => setWaysIn(false)} />
      <Versions
        path={`/clients/${client}/loops/${loopId}`}
        open={versions}
        onClose={() => setVersions(false)}
        changed={() => draft.reload()}
      />
      {problems > 0 && (
        <Notice tone="warning">{`${problems === 1 ? 'One thing stands' : `${problems} things stand`} in the way of publishing; ${problems === 1 ? 'it is' : 'they are'} marked ◆ where ${problems === 1 ? 'it belongs' : 'they belong'}.`}</Notice>
      )}
      {draft.takenOver && (
        <Notice tone="quiet">{`${draft.takenOver} has just changed this draft; you see the newest. Undo brings back what you had before.`}</Notice>
      )}
      {draft.problem && (
        <Notice tone="failing">{`${draft.problem.message}${draft.problem.status === 0 ? '' : ' Your text is kept on this device.'}`}</Notice>
      )}
      {draft.conflict && (
        <Notice tone="failing">
          <Words
            kind="small"
            color="ink"
          >{`${draft.conflict.savedBy ?? 'Somebody'} saved this draft while you were writing. Nothing was written over: choose which goes on.`}</Words>
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            <QuietButton outlined title="Take theirs" hint="Yours stays one undo away" onPress={draft.takeTheirs} />
            <QuietButton outlined title="Keep mine" hint="Theirs is replaced" onPress={draft.keepMine} />
          </View>
        </Notice>
      )}
      {result && <Notice tone={result.tone}>{result.words}</Notice>}
    </View>
  );
}

function Outline({
  client,
  loop,
  reached,
  findings,
}: {
  client: string;
  loop: Loop;
  reached: Record<string, number> | null;
  findings: Finding[];
}) {
  const { colors } = useTheme();
  return (
    <View style={{ width: 214, borderRightWidth: 1, borderColor: colors.line }}>
      <ScrollView contentContainerStyle={{ padding: 12 }} tabIndex={-1}>
        <TextLink href={`/${client}/loops`}>‹ Loops</TextLink>
        <Words kind="small" style={{ marginTop: 8, paddingHorizontal: 8 }}>
          Scenes
        </Words>
        {loop.scenes.map((scene, index) => (
          <PlaceLink key={scene.id} href={`#scene-${scene.id}`} style={{ paddingHorizontal: 8, minHeight: 36 }}>
            <View style={{ flexDirection: 'row', gap: 8, alignItems: 'baseline' }}>
              <Words kind="code">{String(index + 1)}</Words>
              <Words kind="small" color="ink" numberOfLines={2} style={{ flex: 1 }}>
                {scene.name}
              </Words>
              <FindingMark findings={findings.filter((finding) => finding.sceneId === scene.id)} />
              {reached && scene.steps[0] && <Words kind="code">{String(reached[scene.steps[0].id] ?? 0)}</Words>}
            </View>
          </PlaceLink>
        ))}
      </ScrollView>
    </View>
  );
}

/** What can be merged: the person's fields, the brief, the client and the line. */
function mergeFields(loop: Loop, known: { key: string; name: string }[]): MergeField[] {
  const keys = [...new Set([...known.map((field) => field.key), ...Object.keys(fieldsOf(loop))])];
  return [
    { path: 'person.first_name', words: 'first name' },
    ...keys.map((key) => ({ path: `person.${key}`, words: key.replaceAll('_', ' ') })),
    { path: 'client.name', words: 'the client’s name' },
    ...['hours', 'address', 'phone', 'booking_link', 'privacy_link'].map((key) => ({
      path: `brief.${key}`,
      words: `brief: ${key.replaceAll('_', ' ')}`,
    })),
  ];
}

function useScriptKeys(draft: Draft, show: (stepId: string) => void, openKeys: () => void) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const typing = /^(input|textarea|select)$/i.test(target.tagName);
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing) {
        event.preventDefault();
        if (event.shiftKey) draft.redo();
        else draft.undo();
        return;
      }
      if (typing || event.ctrlKey || event.metaKey || document.querySelector('[role="dialog"]')) return;
      const lines = [...document.querySelectorAll<HTMLElement>('[data-step]')];
      const here = target.closest<HTMLElement>('[data-step]');
      const stepId = here?.dataset.step;
      const loop = draft.loop;
      if (!loop) return;
      if (event.altKey) {
        if (stepId && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
          event.preventDefault();
          draft.edit((each) => moveStep(each, stepId, event.key === 'ArrowUp' ? -1 : 1));
          show(stepId);
        }
        return;
      }
      if (event.key === '?') return openKeys();
      if (event.key === 'j' || event.key === 'k') {
        const at = here ? lines.indexOf(here) : event.key === 'j' ? -1 : lines.length;
        lines[Math.max(0, Math.min(lines.length - 1, at + (event.key === 'j' ? 1 : -1)))]?.focus();
      } else if (event.key === 'Enter' && here === target && stepId) {
        event.preventDefault();
        here.querySelector<HTMLElement>('[data-edit], [role="button"]')?.click();
      } else if (event.key === 'a' && stepId) {
        const place = findStep(loop, stepId);
        if (!place) return;
        event.preventDefault();
        const made = addStep(loop, place.scene.id, structuredClone(NEW_STEPS[0]!.step), place.stepIndex + 1);
        draft.edit(() => made.loop);
        show(made.stepId);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}
