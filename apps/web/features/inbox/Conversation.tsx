import { useEffect, useRef, useState } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import type { ConversationPage, Entry } from '@dart-loop/contract';
import { PLACES } from '@dart-loop/core/match/decision';
import { Dialog } from '../../ui/Menu';
import { PlaceLink, QuietButton } from '../../ui/press';
import { ChannelMark, Failure, Waiting, usePageTitle } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { clock, exact, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { get } from '../session/api';
import { useSession } from '../session/useSession';
import { AnswerBar } from './AnswerBar';
import { Charge, chargeWords } from './Charge';
import { useConversation } from './useConversation';

/** The messages with the loop's doings between them as stage directions. */
export function Conversation({ client, id, back }: { client: string; id: string; back?: () => void }) {
  const { colors, wide } = useTheme();
  const { data, error, mutate, path, act, busy, problem, me, mayAnswer } = useConversation(client, id);
  const session = useSession();
  const [earlier, setEarlier] = useState<Entry[]>([]);
  const [before, setBefore] = useState<number | null | undefined>(undefined);
  const scroll = useRef<ScrollView>(null);
  const count = data?.entries.length ?? 0;
  useEffect(() => {
    if (count > 0) setTimeout(() => scroll.current?.scrollToEnd({ animated: false }), 30);
  }, [count]);
  usePageTitle(data?.who ?? 'Conversation');
  const oldest = before === undefined ? (data?.before ?? null) : before;
  const loadEarlier = async () => {
    const page = await get<ConversationPage>(`${path}?before=${oldest}`);
    setEarlier([...page.entries, ...earlier]);
    setBefore(page.before);
  };
  const name = session.data?.clients.find((each) => each.slug === client)?.name;
  return (
    <View style={{ flex: 1 }}>
      <View style={{ paddingHorizontal: 16, paddingVertical: 12, borderBottomWidth: 1, borderColor: colors.line }}>
        {back && <QuietButton title="‹ Inbox" onPress={back} />}
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', justifyContent: 'space-between', alignItems: 'center', gap: 8 }}>
          <Words kind="title" numberOfLines={2} style={{ flexShrink: 1 }}>
            {data?.who ?? ' '}
          </Words>
          {data && mayAnswer && !data.optedOut && <Charge data={data} me={me} busy={busy} act={act} />}
        </View>
        {data?.held?.note ? <Words kind="small" color="ink">{`Note: ${data.held.note}`}</Words> : null}
        {data && (
          <View style={{ flexDirection: 'row', alignItems: 'center', gap: 6, flexWrap: 'wrap' }}>
            <Words kind="small">{name}</Words>
            <ChannelMark channel={data.channel} />
            <Words
              kind="small"
              color={data.held ? 'plum' : data.shelf === 'waiting on us' ? 'ochre' : data.shelf === 'running' ? 'teal' : 'quiet'}
            >
              {data.held
                ? chargeWords(data.held, me)
                : data.shelf === 'waiting on us'
                  ? `◆ waiting on us, since ${whenWords(data.waitingSince!)}`
                  : data.shelf === 'running'
                    ? `● ${data.loop?.name ?? 'a loop'} is under way`
                    : '● settled'}
            </Words>
            {!wide && data.person && session.data && session.data.account.role !== 'client' && (
              <PlaceLink href={`/${client}/people/${data.person.id}`}>
                <Words kind="smallStrong" color="teal">
                  the person’s page
                </Words>
              </PlaceLink>
            )}
          </View>
        )}
      </View>
      {error && !data && (
        <View style={{ padding: 16 }}>
          <Failure error={error} again={() => void mutate()} />
        </View>
      )}
      {!data && !error && (
        <View style={{ padding: 16 }}>
          <Waiting />
        </View>
      )}
      {data && (
        <ScrollView
          ref={scroll}
          style={{ flex: 1 }}
          contentContainerStyle={{ padding: 16, gap: 8, maxWidth: 640, width: '100%', alignSelf: 'center' }}
          tabIndex={0}
          aria-label="Messages"
        >
          {oldest && <QuietButton outlined title="Show earlier messages" onPress={() => void loadEarlier()} />}
          <View role="log" aria-live="polite" style={{ gap: 8 }}>
            {[...earlier, ...data.entries].map((entry) => (
              <EntryView key={entry.id} entry={entry} />
            ))}
          </View>
        </ScrollView>
      )}
      {data && mayAnswer && <AnswerBar data={data} me={me} busy={busy} problem={problem} act={act} />}
    </View>
  );
}

function EntryView({ entry }: { entry: Entry }) {
  const { colors } = useTheme();
  const time = (
    <Words kind="code" {...({ title: exact(entry.at) } as object)}>
      {clock(entry.at)}
    </Words>
  );
  if (entry.kind === 'stage') return <Stage entry={entry} />;
  if (entry.kind === 'in')
    return (
      <View style={{ alignSelf: 'flex-start', maxWidth: '85%', flexDirection: 'row', alignItems: 'flex-end', gap: 8 }}>
        <View
          style={{
            flexShrink: 1,
            backgroundColor: colors.sheet,
            borderWidth: 1,
            borderColor: colors.line,
            borderRadius: 6,
            paddingHorizontal: 12,
            paddingVertical: 8,
          }}
        >
          <Words>{entry.words}</Words>
          {entry.tapped && <Words kind="small">tapped</Words>}
        </View>
        {time}
      </View>
    );
  return (
    <View style={{ alignSelf: 'flex-end', maxWidth: '85%', alignItems: 'flex-end' }}>
      <View style={{ flexDirection: 'row', alignItems: 'flex-end', gap: 8 }}>
        {time}
        <View
          style={{
            flexShrink: 1,
            backgroundColor: entry.by ? undefined : colors.inset,
            borderRadius: 6,
            paddingHorizontal: 12,
            paddingVertical: 8,
            borderWidth: entry.status === 'failed' || entry.by ? 1 : 0,
            borderColor: entry.status === 'failed' ? colors.red : colors.plum,
          }}
        >
          {entry.body.channel === 'telegram' && entry.body.media && (
            <Words kind="small">{`${entry.body.media.what}: ${entry.body.media.address}`}</Words>
          )}
          {entry.body.text !== '' && <Words>{entry.body.text}</Words>}
          {entry.body.channel === 'telegram' &&
            entry.body.keyboard.flat().map((button) => (
              <View
                key={'data' in button ? button.data : button.url}
                style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 4, marginTop: 4 }}
              >
                <Words kind="smallStrong" color="teal">
                  {button.text}
                </Words>
              </View>
            ))}
        </View>
      </View>
      {entry.by && <Words kind="small" color="plum">{`■ ${entry.by}`}</Words>}
      {entry.status === 'queued' && (
        <Words kind="small" color="ochre">
          {entry.failure ? `◆ held: ${entry.failure.reason} ${entry.failure.remedy}` : '◆ being sent'}
        </Words>
      )}
      {entry.status === 'failed' && (
        <Words kind="small" color="red">{`▲ not sent: ${entry.failure?.reason ?? ''} ${entry.failure?.remedy ?? ''}`}</Words>
      )}
      {entry.status === 'sent' && entry.body.channel === 'sms' && (
        <Words kind="small">{entry.body.parts === 1 ? '1 part' : `${entry.body.parts} parts`}</Words>
      )}
    </View>
  );
}

function Stage({ entry }: { entry: Extract<Entry, { kind: 'stage' }> }) {
  const { colors } = useTheme();
  const [open, setOpen] = useState(false);
  if (entry.words.length === 0) return null;
  return (
    <View style={{ borderLeftWidth: 2, borderColor: colors.line, paddingLeft: 10, marginVertical: 2, alignSelf: 'center', width: '88%' }}>
      <Words kind="direction">{entry.words.join(' ')}</Words>
      {entry.decision && (
        <>
          <Pressable
            role="button"
            onPress={() => setOpen(true)}
            style={{ minHeight: 32, justifyContent: 'center', alignSelf: 'flex-start' }}
          >
            <Words kind="direction" color="teal" style={{ textDecorationLine: 'underline' }}>
              Why did this happen?
            </Words>
          </Pressable>
          <Dialog title="Why did this happen?" open={open} onClose={() => setOpen(false)}>
            <View style={{ padding: 12, gap: 14 }}>
              {entry.decision.candidates.map((candidate, index) => (
                <View key={index} style={{ gap: 2 }}>
                  <View style={{ flexDirection: 'row', gap: 6, alignItems: 'baseline', flexWrap: 'wrap' }}>
                    <Words kind="strong" color={candidate.outcome === 'won' ? 'ink' : 'quiet'}>
                      {candidate.outcome === 'won' ? '● ' : '○ '}
                      {candidate.who}
                    </Words>
                    <Words kind="small">{candidate.outcome === 'won' ? 'answered' : 'did not answer'}</Words>
                  </View>
                  <Words kind="small" color="ink">{`${candidate.reason.charAt(0).toUpperCase()}${candidate.reason.slice(1)}.`}</Words>
                  <Words kind="small">{`Place ${PLACES[candidate.place]} of 12 in the order: ${candidate.place}.`}</Words>
                </View>
              ))}
            </View>
          </Dialog>
        </>
      )}
    </View>
  );
}
