import { router, type Href } from 'expo-router';
import { useState, type ReactNode } from 'react';
import { View } from 'react-native';
import type { Loop } from '@dart-loop/core';
import { withValueAt } from '@dart-loop/core/loops/edit/edits';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import { Dialog, Menu, type MenuItem } from '../../ui/Menu';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { ChannelMark, Notice, StateShape } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { exact, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { EditableText } from './EditableText';
import { ListOfLoop } from './ListOfLoop';
import { ClashNotice } from './ClashNotice';
import { toMend } from './Findings';
import { PublishSheet } from './PublishSheet';
import { STATE_WORDS } from './stateWords';
import type { Draft } from './useDraft';
import { Versions } from './Versions';
import { WaysIn } from './WaysIn';

const SAVING = {
  saved: 'saved',
  'to be saved': 'saving …',
  saving: 'saving …',
  'not saved': 'not saved',
} as const;
const people = (count: number) => (count === 1 ? '1 person' : `${count} people`);

/**
 * A loop's name and state, what publishing would change, and everything that is done with the loop as a
 * whole.
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
  /** The loop's faces, which share a row with what is done most. */
  tabs: ReactNode;
}) {
  const { wide } = useTheme();
  const page = draft.page!;
  const [sheet, setSheet] = useState<'publish' | 'versions' | 'ways in' | 'list' | 'pause' | 'stop' | null>(
    null,
  );
  const [result, setResult] = useState<{ tone: 'quiet' | 'failing'; words: string } | null>(null);
  const changes = page.differences.length;
  const path = `/clients/${client}/loops/${loopId}`;
  const act = async (what: string, body: object, words: string) => {
    setSheet(null);
    try {
      await draft.act(what, body);
      setResult({ tone: 'quiet', words });
    } catch (error) {
      setResult({ tone: 'failing', words: (error as Error).message });
    }
  };
  const duplicate = async () => {
    try {
      const { id } = await ask<{ id: string }>('POST', `${path}/duplicate`, {});
      router.push(`/${client}/loops/${id}` as Href);
    } catch (error) {
      setResult({ tone: 'failing', words: (error as Error).message });
    }
  };
  const download = (as: 'yaml' | 'json') => window.location.assign(`/api${path}/file?as=${as}`);
  const title =
    changes === 0
      ? 'Published'
      : !page.live
        ? 'Publish'
        : `Publish ${changes === 1 ? '1 change' : `${changes} changes`}`;
  const items: MenuItem[] = [
    ...(page.live
      ? [
          {
            key: 'ways',
            words: 'Ways in',
            more: 'keywords, links and QR codes to hand out',
            onChoose: () => setSheet('ways in'),
          },
        ]
      : []),
    ...(page.live
      ? [
          {
            key: 'versions',
            words: 'Versions and history',
            more: 'what changed, who and when; roll back',
            onChoose: () => setSheet('versions'),
          },
        ]
      : []),
    {
      key: 'list',
      words: 'Writes to a list',
      more: loop.list ?? 'none: to whoever is in it',
      onChoose: () => setSheet('list'),
    },
    { key: 'find', words: 'Find and replace', more: 'Ctrl+F', onChoose: openFind },
    ...(page.state === 'live'
      ? [
          {
            key: 'pause',
            words: 'Pause',
            more: 'nobody new starts; people in it go on',
            onChoose: () => setSheet('pause'),
          },
        ]
      : []),
    ...(page.state === 'paused' || page.state === 'stopped'
      ? [
          {
            key: 'resume',
            words: 'Let it run again',
            onChoose: () => void act('state', { state: 'live' }, 'It runs again.'),
          },
        ]
      : []),
    ...(page.state === 'live' || page.state === 'paused'
      ? [
          {
            key: 'stop',
            words: 'Stop',
            more: 'nobody starts, and people in it are not led on',
            tone: 'red' as const,
            onChoose: () => setSheet('stop'),
          },
        ]
      : []),
    { key: 'twice', words: 'Duplicate', onChoose: () => void duplicate() },
    {
      key: 'yaml',
      words: 'Save as YAML',
      more: 'good to read and to keep with others',
      onChoose: () => download('yaml'),
    },
    { key: 'json', words: 'Save as JSON', more: 'good for programs', onChoose: () => download('json') },
    ...(page.state === 'stopped' || page.state === 'never published'
      ? [
          {
            key: 'archive',
            words: 'Archive',
            more: 'out of the way, and back at any time',
            onChoose: () => void act('archive', { archived: true }, 'Archived.'),
          },
        ]
      : []),
    ...(page.state === 'archived'
      ? [
          {
            key: 'back',
            words: 'Take out of the archive',
            onChoose: () => void act('archive', { archived: false }, 'It is back among the loops.'),
          },
        ]
      : []),
    { key: 'keys', words: 'Keys', more: '?', onChoose: openKeys },
  ];
  const channels = [
    ...new Set(
      page.lines
        .filter((line) => loop.lines.length === 0 || loop.lines.includes(line.key))
        .map(({ channel }) => channel),
    ),
  ];
  const stops = examined
    ? toMend(examined.findings).filter(({ severity }) => severity === 'stops').length
    : page.problems.length;
  return (
    <View style={{ gap: 4 }}>
      {!wide && <TextLink href={`/${client}/loops`}>‹ Loops</TextLink>}
      <View
        style={{ flexDirection: 'row', alignItems: 'flex-start', justifyContent: 'space-between', gap: 12 }}
      >
        <View style={{ flex: 1, minWidth: 0 }}>
          <EditableText
            multiline={false}
            value={loop.name}
            label="Name of the loop"
            placeholder="Name the loop, such as “Sailing alerts”"
            onChange={(name) => draft.edit((each) => ({ ...each, name }), 'name')}
          >
            <Words kind="title">{loop.name}</Words>
          </EditableText>
        </View>
        <ActionButton
          title={title}
          disabled={changes === 0 || page.state === 'archived'}
          onPress={() => setSheet('publish')}
        />
      </View>
      <View style={{ flexDirection: 'row', alignItems: 'center', flexWrap: 'wrap', columnGap: 4 }}>
        <StateShape tone={page.state === 'live' ? 'live' : page.state === 'paused' ? 'warning' : 'quiet'} />
        <Words kind="small" role="status">
          {[
            page.live ? `${STATE_WORDS[page.state]}, version ${page.live.version}` : STATE_WORDS[page.state],
            `${people(page.peopleInIt)} in it`,
            SAVING[draft.saving],
          ].join(' · ')}
        </Words>
        {channels.map((channel) => (
          <ChannelMark key={channel} channel={channel} />
        ))}
        {here.length > 0 && (
          <Words
            kind="small"
            color="plum"
          >{`■ ${here.join(', ')} ${here.length === 1 ? 'is' : 'are'} here too`}</Words>
        )}
      </View>
      <Words kind="small">
        {changes === 0
          ? `The draft is the same as version ${page.live?.version}, published ${page.live ? whenWords(page.live.publishedAt) : ''}${page.live?.publishedBy ? ` by ${page.live.publishedBy}` : ''}.`
          : page.live
            ? `Differs from version ${page.live.version}: ${page.differences.join('; ')}.`
            : 'Everything in it is new: nothing is live until you publish.'}
      </Words>
      <View
        style={{
          flexDirection: 'row',
          flexWrap: 'wrap',
          columnGap: 4,
          alignItems: 'center',
          justifyContent: 'space-between',
        }}
      >
        {tabs}
        <View
          style={{
            flexDirection: 'row',
            gap: 4,
            alignItems: 'center',
            marginRight: -6,
            marginLeft: wide ? 0 : -6,
          }}
        >
          <QuietButton title="Undo" disabled={!draft.canUndo} onPress={draft.undo} />
          <QuietButton title="Redo" disabled={!draft.canRedo} onPress={draft.redo} />
          <Menu label="More for this loop" title={loop.name} items={items}>
            <Words kind="strong" style={{ fontSize: 15, paddingHorizontal: 6 }}>
              More
            </Words>
          </Menu>
        </View>
      </View>
      {page.scheduled && (
        <Notice tone="quiet">
          <Words
            kind="small"
            color="ink"
          >{`To be published ${exact(page.scheduled.at)}${page.scheduled.by ? `, as ${page.scheduled.by} left it` : ''}.`}</Words>
          <QuietButton
            outlined
            title="Do not publish it then"
            onPress={() => void act('unschedule', {}, 'It is not published then.')}
          />
        </Notice>
      )}
      {page.scheduleFailed && (
        <Notice tone="failing">{`It was to be published and was not. ${page.scheduleFailed}`}</Notice>
      )}
      {stops > 0 && (
        <Notice tone="warning">{`${stops === 1 ? 'One thing stands' : `${stops} things stand`} in the way of publishing; ${stops === 1 ? 'it is' : 'they are'} marked ◆ where ${stops === 1 ? 'it belongs' : 'they belong'}.`}</Notice>
      )}
      {draft.cameIn && <ClashNotice came={draft.cameIn} loop={loop} edit={draft.edit} noted={draft.noted} />}
      {draft.problem && (
        <Notice tone="failing">{`${draft.problem.message}${draft.problem.status === 0 ? '' : ' Your text is kept on this device.'}`}</Notice>
      )}
      {result && <Notice tone={result.tone}>{result.words}</Notice>}
      <PublishSheet
        draft={draft}
        page={page}
        examined={examined}
        open={sheet === 'publish'}
        onClose={() => setSheet(null)}
        onPublished={(words) => setResult({ tone: 'quiet', words })}
        seeChecks={seeChecks}
      />
      {sheet === 'list' && (
        <ListOfLoop
          client={client}
          list={loop.list}
          onClose={() => setSheet(null)}
          onChoose={(list) => draft.edit((each) => withValueAt(each, ['list'], list), 'list')}
        />
      )}
      <WaysIn path={path} open={sheet === 'ways in'} onClose={() => setSheet(null)} />
      <Versions
        path={path}
        open={sheet === 'versions'}
        onClose={() => setSheet(null)}
        changed={() => draft.reload()}
      />
      <Dialog
        title={sheet === 'stop' ? `Stop ${loop.name}?` : `Pause ${loop.name}?`}
        open={sheet === 'pause' || sheet === 'stop'}
        onClose={() => setSheet(null)}
      >
        <View style={{ padding: 12, gap: 12 }}>
          <Words>
            {sheet === 'stop'
              ? `Nobody starts it any more, and ${page.peopleInIt === 0 ? 'nobody is in it now' : `${people(page.peopleInIt)} in it ${page.peopleInIt === 1 ? 'is' : 'are'} not led on: what they write next is heard by other loops, or waits for a person`}. It can run again later; those who were in it do not come back by themselves.`
              : `Nobody new starts it; their messages go to other loops, or wait for a person. ${page.peopleInIt === 0 ? 'Nobody is in it now.' : `${people(page.peopleInIt)} in it ${page.peopleInIt === 1 ? 'goes' : 'go'} on to the end.`}`}
          </Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={sheet === 'stop' ? 'Stop it' : 'Pause it'}
              onPress={() =>
                void (sheet === 'stop'
                  ? act('state', { state: 'stopped' }, 'Stopped. Nobody is led on in it.')
                  : act('state', { state: 'paused' }, 'Paused. Nobody new starts; people in it go on.'))
              }
            />
            <QuietButton title="Let it run" onPress={() => setSheet(null)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
}
