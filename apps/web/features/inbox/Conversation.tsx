import { useEffect, useRef, useState } from 'react';
import { ScrollView, View } from 'react-native';
import type { ConversationPage, Entry } from '@dart-loop/contract';
import { Avatar } from '../../ui/Avatar';
import { IconButton } from '../../ui/IconButton';
import { PlaceLink, QuietButton } from '../../ui/press';
import { usePageTitle } from '../../ui/Page';
import { ChannelMark, Failure, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { get } from '../session/api';
import { useMay, useSession } from '../session/useSession';
import { AnswerBar } from './AnswerBar';
import { Charge, chargeWords } from './Charge';
import { EntryView } from './EntryView';
import { KeepTake } from './KeepTake';
import { useConversation } from './useConversation';

/** The messages with the loop's doings between them as stage directions. */
export function Conversation({ client, id, back }: { client: string; id: string; back?: () => void }) {
  const { colors, wide } = useTheme();
  const { data, error, mutate, path, act, busy, problem, me, mayAnswer } = useConversation(client, id);
  const session = useSession();
  const may = useMay();
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
      <View
        style={{
          paddingHorizontal: 16,
          paddingVertical: wide ? 12 : 4,
          borderBottomWidth: 1,
          borderColor: colors.line,
        }}
      >
        <View style={{ flexDirection: 'row', alignItems: 'center', gap: wide ? 10 : 4 }}>
          {back && (
            <View style={{ marginLeft: -12 }}>
              <IconButton icon="back" label="Inbox" onPress={back} />
            </View>
          )}
          {wide && data && <Avatar name={data.who} />}
          <View style={{ flex: 1, minWidth: 0 }}>
            <Words
              kind="title"
              numberOfLines={wide ? 2 : 1}
              style={wide ? undefined : { fontSize: 19, lineHeight: 24 }}
            >
              {data?.who ?? ' '}
            </Words>
          </View>
          {data && mayAnswer && !data.optedOut && <Charge data={data} me={me} busy={busy} act={act} />}
        </View>
        {data && <ConversationState data={data} me={me} client={name} />}
        {data?.held?.note ? <Words kind="small" color="ink">{`Note: ${data.held.note}`}</Words> : null}
        {data && (
          <View style={{ flexDirection: 'row', columnGap: 12, flexWrap: 'wrap' }}>
            {may('change loops') && (
              <KeepTake client={client} data={data} entries={[...earlier, ...data.entries]} />
            )}
            {!wide && data.person && may('see people of the inbox') && (
              <PlaceLink href={`/${client}/people/${data.person.id}`}>
                <Words kind="smallStrong" color="teal">
                  Open person
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
          // What stands below it has become higher or lower.
          onLayout={() => scroll.current?.scrollToEnd({ animated: false })}
          style={{ flex: 1 }}
          contentContainerStyle={{ padding: 16, gap: 8, maxWidth: 640, width: '100%', alignSelf: 'center' }}
          tabIndex={0}
          aria-label="Messages"
        >
          {oldest && (
            <QuietButton outlined title="Show earlier messages" onPress={() => void loadEarlier()} />
          )}
          <View role="log" aria-live="polite" style={{ gap: 8 }}>
            {[...earlier, ...data.entries].map((entry) => (
              <EntryView key={entry.id} entry={entry} />
            ))}
          </View>
        </ScrollView>
      )}
      {data && mayAnswer && (
        <AnswerBar client={client} data={data} me={me} busy={busy} problem={problem} act={act} />
      )}
    </View>
  );
}

/** Of which client it is, on which channel, and whose turn it is. */
function ConversationState({
  data,
  me,
  client,
}: {
  data: ConversationPage;
  me: string;
  client: string | undefined;
}) {
  const [words, color] = data.held
    ? ([chargeWords(data.held, me), 'plum'] as const)
    : data.shelf === 'waiting on us'
      ? ([`◆ waiting on us since ${whenWords(data.waitingSince!)}`, 'ochre'] as const)
      : data.shelf === 'running'
        ? ([`● in ${data.loop?.name ?? 'a loop'}`, 'teal'] as const)
        : (['● settled', 'quiet'] as const);
  return (
    <View style={{ flexDirection: 'row', alignItems: 'center', gap: 6, flexWrap: 'wrap' }}>
      <Words kind="small">{client}</Words>
      <ChannelMark channel={data.channel} />
      <Words kind="small" color={color}>
        {words}
      </Words>
    </View>
  );
}
