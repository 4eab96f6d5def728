import { router, useLocalSearchParams } from 'expo-router';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { ScrollView, View, useWindowDimensions } from 'react-native';
import useSWR from 'swr';
import type { LoopSurroundings, Passages } from '@dart-loop/contract';
import type { FieldTypes } from '@dart-loop/core';
import { fieldsOf } from '@dart-loop/core/loops/check/fieldsOf';
import { findStep } from '@dart-loop/core/loops/model/loop';
import { withTakes } from '@dart-loop/core/loops/takes/keepTake';
import { acceptTake } from '@dart-loop/core/loops/takes/takes';
import { pathLines } from '@dart-loop/core/engine/rehearsal/pathLines';
import { Dialog } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { usePageTitle } from '../../ui/Page';
import { Failure, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ChecksPane } from './checks/ChecksPane';
import { FindBar } from './FindBar';
import { toMend } from './Findings';
import { FACES, type Face } from './faces';
import { LandsPane } from './LandsPane';
import { LoopHead } from './head/LoopHead';
import { Outline } from './Outline';
import { ChosenBar, Script } from './Script';
import { useDraft } from './useDraft';
import { useExamined } from './useExamined';
import { usePresence } from './usePresence';
import { useScriptEdits } from './useScriptEdits';
import { focusedStep, KEYS, useScriptKeys } from './useScriptKeys';
import { RehearsePane, type Asked } from './rehearse/RehearsePane';
import { RoutePane } from './RoutePane';
import { FaceTabs } from './head/FaceTabs';

const NOTHING: never[] = [];
/** From this width on there is room for the script and a pane beside it. */
const ROOMY = 1_160;

/** A loop's workbench: its script with what belongs beside it; one face at a time on a phone. */
export function Workbench() {
  const { wide, colors } = useTheme();
  const roomy = useWindowDimensions().width >= ROOMY;
  const {
    client,
    loop: loopId,
    see,
  } = useLocalSearchParams<{ client: string; loop: string; see?: string }>();
  const asked = see !== undefined && see in FACES ? (see as Face) : null;
  const draft = useDraft(client, loopId);
  const { loop, page } = draft;
  const { data: known } = useSWR<LoopSurroundings>(
    page ? `/clients/${client}/loops/${loopId}/surroundings` : null,
  );
  const { examined } = useExamined(loop, known);
  const [keys, setKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const [at, setAt] = useState<string | null>(null);
  const [back, setBack] = useState<string | null>(null);
  const [toPlay, setToPlay] = useState<Asked | null>(null);
  const scroll = useRef<ScrollView>(null);
  const here = usePresence(client, loopId, at);
  usePageTitle(loop?.name ?? 'Loop');

  const face: Face = asked ?? 'script';
  const middle: Face = roomy ? (face === 'route' ? 'route' : 'script') : face;
  const side: Face | null = roomy ? (face === 'checks' || face === 'lands' ? face : 'rehearse') : null;
  const setFace = useCallback(
    (next: Face) => router.setParams({ see: next === 'script' ? undefined : next }),
    [],
  );

  const show = useCallback((stepId: string, keepFocus = false) => {
    const look = (tries: number) => {
      const line = document.querySelector<HTMLElement>(`[data-step="${CSS.escape(stepId)}"]`);
      if (!line) return tries > 0 ? void setTimeout(() => look(tries - 1), 40) : undefined;
      line.scrollIntoView({ block: 'nearest' });
      if (!keepFocus) line.focus();
      setAt(stepId);
    };
    setTimeout(() => look(10), 30);
  }, []);
  const toScript = useCallback(() => {
    if (!roomy) setFace('script');
  }, [roomy, setFace]);
  const goTo = useCallback(
    (sceneId: string) => {
      setBack(focusedStep());
      toScript();
      setTimeout(() => {
        const scene = document.querySelector<HTMLElement>(`[data-scene="${CSS.escape(sceneId)}"]`);
        scene?.scrollIntoView({ block: 'start' });
        scene?.querySelector<HTMLElement>('[data-step]')?.focus({ preventScroll: true });
      }, 60);
    },
    [toScript],
  );
  const play = useCallback(
    (lines: string[], fields: Asked['fields'] = {}) => {
      setToPlay((before) => ({ key: (before?.key ?? 0) + 1, lines, fields }));
      setFace('rehearse');
    },
    [setFace],
  );

  const types = useMemo<FieldTypes>(
    () => ({ ...known?.types, ...(loop ? fieldsOf(loop) : {}) }),
    [known, loop],
  );
  const { edits, actions } = useScriptEdits(draft, {
    loopId,
    types,
    show,
    goTo,
    seeLanding: (stepId) => {
      setAt(stepId);
      setFace('lands');
    },
    rehearseFrom: (sceneId) => play([`/scene ${sceneId}`]),
    focused: focusedStep,
  });
  useScriptKeys(draft, edits, actions, {
    face: setFace,
    keys: () => setKeys(true),
    find: () => setFinding(true),
    show,
  });

  // The step in focus is the one that lands beside, and where the others see us.
  useEffect(() => {
    const onFocus = (event: FocusEvent) => {
      const stepId = (event.target as HTMLElement | null)?.closest?.<HTMLElement>('[data-step]')?.dataset
        .step;
      if (stepId) setAt(stepId);
    };
    document.addEventListener('focusin', onFocus);
    return () => document.removeEventListener('focusin', onFocus);
  }, []);
  // The address may name a step: a person's page leads here.
  const named = useRef(false);
  useEffect(() => {
    if (!loop || named.current) return;
    named.current = true;
    const hash = decodeURIComponent(window.location.hash.slice(1));
    if (hash && findStep(loop, hash)) show(hash);
  }, [loop, show]);

  const findings = examined?.findings ?? NOTHING;
  const { data: passages } = useSWR<Passages>(
    middle === 'route' && page?.live ? `/clients/${client}/loops/${loopId}/passages` : null,
  );

  if (!loop || !page)
    return (
      <View style={{ padding: 16 }}>
        {draft.error ? <Failure error={draft.error} again={draft.reload} /> : <Waiting />}
      </View>
    );

  const reached = page.live ? page.reached : null;
  const open = toMend(findings).length;
  const covered = examined ? examined.paths.filter((path) => path.takes.length > 0).length : 0;
  const faces = (roomy ? (['script', 'route'] as const) : (Object.keys(FACES) as Face[])) as readonly Face[];
  const pane = (which: Face) => {
    if (which === 'checks')
      return (
        <ChecksPane
          examined={examined}
          actions={actions}
          show={(each) => {
            toScript();
            if (each.stepId) show(each.stepId);
            else if (each.sceneId) goTo(each.sceneId);
            else
              setTimeout(
                () =>
                  document
                    .querySelector(`[data-cue="${CSS.escape(each.cueId ?? '')}"]`)
                    ?.scrollIntoView({ block: 'center' }),
                60,
              );
          }}
          rehearsePath={(index) => {
            const { lines, fields: facts } = pathLines(loop, examined!.paths[index]!, types);
            play(lines, facts);
          }}
          takes={{
            accept: (played) => draft.edit((before) => acceptTake(before, played)),
            remove: (takeId) =>
              draft.edit((before) =>
                withTakes(
                  before,
                  (before.takes ?? []).filter(({ id }) => id !== takeId),
                ),
              ),
            rehearse(takeId) {
              const take = loop.takes?.find(({ id }) => id === takeId);
              if (take)
                play(
                  take.turns.map(({ does }) => does),
                  take.person.fields,
                );
            },
          }}
        />
      );
    if (!known) return <Waiting />;
    if (which === 'lands') return <LandsPane loop={loop} stepId={at} known={known} />;
    return <RehearsePane client={client} loop={loop} known={known} asked={toPlay} edit={draft.edit} />;
  };
  const tabs = (
    <FaceTabs faces={faces} now={middle} findings={open} onChoose={setFace} label="Faces of the loop" />
  );
  const head = (
    <LoopHead
      tabs={tabs}
      client={client}
      loopId={loopId}
      draft={draft}
      loop={loop}
      examined={examined}
      here={here.all}
      openKeys={() => setKeys(true)}
      openFind={() => setFinding(true)}
      seeChecks={() => setFace('checks')}
    />
  );
  return (
    <View style={{ flex: 1, flexDirection: 'row' }}>
      {wide && (
        <Outline
          client={client}
          loop={loop}
          reached={reached}
          findings={findings}
          paths={examined && { count: examined.paths.length, covered, cut: examined.cut !== null }}
        />
      )}
      <View style={{ flex: 1, minWidth: 0 }}>
        {finding && <FindBar loop={loop} edit={draft.edit} show={show} onClose={() => setFinding(false)} />}
        {back !== null && (
          <View
            style={{
              flexDirection: 'row',
              alignItems: 'center',
              paddingHorizontal: 12,
              borderBottomWidth: 1,
              borderColor: colors.line,
            }}
          >
            <QuietButton
              title="‹ Back to where you were"
              tone="teal"
              onPress={() => {
                show(back);
                setBack(null);
              }}
            />
          </View>
        )}
        {middle === 'script' ? (
          <ScrollView
            ref={scroll}
            style={{ flex: 1 }}
            contentContainerStyle={{ padding: wide ? 18 : 12, paddingBottom: 120, alignItems: 'center' }}
            tabIndex={-1}
          >
            <View style={{ width: '100%', maxWidth: 720, gap: 10 }}>
              {head}
              <Script
                loop={loop}
                page={page}
                known={known}
                findings={findings}
                actions={actions}
                edits={edits}
                others={here.atStep}
              />
            </View>
          </ScrollView>
        ) : (
          <View style={{ flex: 1, padding: wide ? 18 : 12, gap: 10, minHeight: 0 }}>
            {head}
            {middle === 'route' ? (
              <RoutePane
                loop={loop}
                reached={reached}
                passed={passages?.passed ?? null}
                open={(sceneId) => {
                  setFace('script');
                  setTimeout(() => goTo(sceneId), 80);
                }}
              />
            ) : (
              pane(middle)
            )}
          </View>
        )}
        {middle === 'script' && <ChosenBar edits={edits} />}
      </View>
      {side && (
        <View
          style={{
            width: 330,
            borderLeftWidth: 1,
            borderColor: colors.line,
            padding: 14,
            gap: 8,
            minHeight: 0,
          }}
        >
          <FaceTabs
            faces={['rehearse', 'checks', 'lands']}
            now={side}
            findings={open}
            onChoose={setFace}
            label="Beside the script"
          />
          {pane(side)}
        </View>
      )}
      <Dialog title="Keyboard shortcuts" open={keys} onClose={() => setKeys(false)}>
        <View style={{ padding: 12, gap: 6 }}>
          {KEYS.map(([key, words]) => (
            <View key={key} style={{ flexDirection: 'row', gap: 12 }}>
              <Words kind="code" color="ink" style={{ width: 170 }}>
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
