import { router, type Href } from 'expo-router';
import { useState, type ReactNode } from 'react';
import { View } from 'react-native';
import type { LoopPage } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { withValueAt } from '@dart-loop/core/loops/edit/edits';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import { counted } from '@dart-loop/core/language/counted';
import { Icon } from '../../../ui/Icon';
import { IconButton } from '../../../ui/IconButton';
import { Menu } from '../../../ui/Menu';
import { ActionButton, PlaceLink } from '../../../ui/press';
import { ChannelMark, StateShape } from '../../../ui/parts';
import { useTheme } from '../../../ui/theme';
import { whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';
import { EditableText } from '../EditableText';
import { toMend } from '../Findings';
import { STATE_WORDS } from '../stateWords';
import type { Draft } from '../useDraft';
import { ListOfLoop } from './ListOfLoop';
import { LoopNotices } from './LoopNotices';
import { loopMenu, type LoopSheet } from './loopMenu';
import { PublishSheet } from './PublishSheet';
import { StateDialog } from './StateDialog';
import { Versions } from './Versions';
import { WaysIn } from './WaysIn';

const SAVING = {
  saved: 'saved',
  'to be saved': 'saving …',
  saving: 'saving …',
  'not saved': 'not saved',
} as const;

/**
 * A loop's name and state, what publishing would change, and everything that is done with the loop as a
 * whole. On a phone two rows, so that the first step is in sight.
 */
export function LoopHead({
  client,
  loopId,
  draft,
  loop,
  examined,
  here,
  openKeys,
  openFind,
  seeChecks,
  tabs,
}: {
  client: string;
  loopId: string;
  draft: Draft;
  loop: Loop;
  examined: Examined | null;
  /** Who else is in it just now. */
  here: readonly string[];
  openKeys: () => void;
  openFind: () => void;
  seeChecks: () => void;
  /** The loop's faces. */
  tabs: ReactNode;
}) {
  const { wide } = useTheme();
  const page = draft.page!;
  const [sheet, setSheet] = useState<LoopSheet | null>(null);
  const [result, setResult] = useState<{ tone: 'quiet' | 'failing'; words: string } | null>(null);
  const path = `/clients/${client}/loops/${loopId}`;
  const failed = (error: unknown) => setResult({ tone: 'failing', words: (error as Error).message });
  const act = (what: string, body: object, words: string) => {
    setSheet(null);
    void draft.act(what, body).then(() => setResult({ tone: 'quiet', words }), failed);
  };
  const duplicate = () =>
    void ask<{ id: string }>('POST', `${path}/duplicate`, {}).then(
      ({ id }) => router.push(`/${client}/loops/${id}` as Href),
      failed,
    );
  const items = loopMenu(page, loop, {
    open: setSheet,
    act,
    duplicate,
    download: (as) => window.location.assign(`/api${path}/file?as=${as}`),
    find: openFind,
    keys: openKeys,
  });
  const stops = examined
    ? toMend(examined.findings).filter(({ severity }) => severity === 'stops').length
    : page.problems.length;
  const close = () => setSheet(null);
  const changes = page.differences.length;
  const edited = draft.canUndo || draft.canRedo;
  return (
    <View style={{ gap: 4 }}>
      <View style={{ flexDirection: 'row', alignItems: 'center', gap: wide ? 12 : 4 }}>
        {!wide && (
          <PlaceLink href={`/${client}/loops`} label="Loops" style={{ width: 36, marginLeft: -8 }}>
            <Icon name="back" />
          </PlaceLink>
        )}
        <View style={{ flex: 1, minWidth: 0 }}>
          <EditableText
            multiline={false}
            value={loop.name}
            label="Name of the loop"
            placeholder="Name the loop, such as “Sailing alerts”"
            onChange={(name) => draft.edit((each) => ({ ...each, name }), 'name')}
          >
            <Words
              kind="title"
              numberOfLines={wide ? undefined : 1}
              style={wide ? undefined : { fontSize: 19, lineHeight: 24 }}
            >
              {loop.name}
            </Words>
          </EditableText>
          {!wide && (
            <View style={{ flexDirection: 'row', alignItems: 'center' }}>
              <StateWords page={page} saving={SAVING[draft.saving]} here={here} edited={edited} />
              {edited && <UndoRedo draft={draft} />}
            </View>
          )}
        </View>
        {wide && <UndoRedo draft={draft} />}
        <ActionButton
          title={changes === 0 ? 'Published' : wide || !page.live ? publishWords(page) : `Publish ${changes}`}
          label={changes === 0 ? 'Published' : publishWords(page)}
          disabled={changes === 0 || page.state === 'archived'}
          onPress={() => setSheet('publish')}
        />
        <Menu label="More for this loop" title={loop.name} items={items}>
          <View style={{ alignItems: 'center' }}>
            <Icon name="menu" />
          </View>
        </Menu>
      </View>
      {wide && (
        <>
          <StateWords page={page} saving={SAVING[draft.saving]} here={here} loop={loop} />
          <Words kind="small">{differenceWords(page)}</Words>
        </>
      )}
      {tabs}
      <LoopNotices draft={draft} page={page} loop={loop} stops={stops} result={result} act={act} />
      <PublishSheet
        draft={draft}
        page={page}
        examined={examined}
        open={sheet === 'publish'}
        onClose={close}
        onPublished={(words) => setResult({ tone: 'quiet', words })}
        seeChecks={seeChecks}
      />
      {sheet === 'list' && (
        <ListOfLoop
          client={client}
          list={loop.list}
          onClose={close}
          onChoose={(list) => draft.edit((each) => withValueAt(each, ['list'], list), 'list')}
        />
      )}
      <WaysIn path={path} open={sheet === 'ways in'} onClose={close} />
      <Versions path={path} open={sheet === 'versions'} onClose={close} changed={() => draft.reload()} />
      <StateDialog
        asks={sheet === 'pause' || sheet === 'stop' ? sheet : null}
        name={loop.name}
        peopleInIt={page.peopleInIt}
        onClose={close}
        act={act}
      />
    </View>
  );
}

function UndoRedo({ draft }: { draft: Draft }) {
  return (
    <View style={{ flexDirection: 'row' }}>
      <IconButton icon="undo" label="Undo" disabled={!draft.canUndo} onPress={draft.undo} />
      <IconButton icon="redo" label="Redo" disabled={!draft.canRedo} onPress={draft.redo} />
    </View>
  );
}

/** State, people in it, whether all is saved; on wide also its channels. */
function StateWords({
  page,
  saving,
  here,
  loop,
  edited,
}: {
  page: LoopPage;
  saving: string;
  here: readonly string[];
  /** Given where there is room for all of it. */
  loop?: Loop;
  /** Whether there is something to undo, which takes room from the people. */
  edited?: boolean;
}) {
  const channels = loop
    ? new Set(
        page.lines
          .filter((line) => loop.lines.length === 0 || loop.lines.includes(line.key))
          .map(({ channel }) => channel),
      )
    : [];
  const state = page.live
    ? `${STATE_WORDS[page.state]}, version ${page.live.version}`
    : STATE_WORDS[page.state];
  const words = loop
    ? [state, `${counted(page.peopleInIt, 'person', 'people')} in it`, saving]
    : edited
      ? [state, saving]
      : [state, `${page.peopleInIt} in it`, saving];
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', columnGap: 4, flexShrink: 1 }}>
      <StateShape tone={page.state === 'live' ? 'live' : page.state === 'paused' ? 'warning' : 'quiet'} />
      <Words kind="small" role="status" numberOfLines={1} style={{ flexShrink: 1 }}>
        {words.join(' · ')}
      </Words>
      {[...channels].map((channel) => (
        <ChannelMark key={channel} channel={channel} />
      ))}
      {here.length > 0 && (
        <Words kind="small" color="plum" numberOfLines={1} style={{ flexShrink: 1 }}>
          {`■ ${here.join(', ')} ${here.length === 1 ? 'is' : 'are'} here too`}
        </Words>
      )}
    </View>
  );
}

function publishWords(page: LoopPage): string {
  return page.live ? `Publish ${counted(page.differences.length, 'change')}` : 'Publish';
}

/** How the draft differs from what is live. */
function differenceWords({ live, differences }: LoopPage): string {
  if (!live) return 'Nothing is live until you publish.';
  if (differences.length > 0) return `Changed since version ${live.version}: ${differences.join('; ')}.`;
  const by = live.publishedBy ? ` by ${live.publishedBy}` : '';
  return `The draft is the same as version ${live.version}, published ${whenWords(live.publishedAt)}${by}.`;
}
