import { router, useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import { hint } from '../../ui/onWeb';
import useSWR from 'swr';
import type { InboxPage, InboxRow } from '@dart-loop/contract';
import { PlaceLink, QuietButton } from '../../ui/press';
import { PageHead, usePageInset } from '../../ui/Page';
import { ChannelMark, Empty, Failure, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { ago, exact } from '../../ui/time';
import { Words } from '../../ui/Words';
import { get } from '../session/api';
import { useSession } from '../session/useSession';
import { Conversation } from './Conversation';
import { PersonSide } from './PersonSide';

type Shelf = 'waiting' | 'running' | 'settled';
const SHELVES: { key: Shelf; words: string }[] = [
  { key: 'waiting', words: 'Waiting' },
  { key: 'running', words: 'In a loop' },
  { key: 'settled', words: 'Settled' },
];
const EMPTY: Record<Shelf, [string, string]> = {
  waiting: ['Nobody is waiting', 'Conversations are shown here when no loop can answer them.'],
  running: [
    'Nobody is in a loop',
    'Conversations are shown here while a loop waits for the person’s next reply.',
  ],
  settled: ['Nothing is settled yet', 'Conversations are shown here when their loop has finished.'],
};

/** The list, and on a wide screen the conversation and the person beside it. One address per conversation. */
export function Inbox() {
  const { colors, wide } = useTheme();
  const params = useLocalSearchParams<{ client?: string; conversation?: string; shelf?: Shelf }>();
  const chosen =
    params.conversation && params.client ? { client: params.client, id: params.conversation } : null;
  if (!wide)
    return chosen ? (
      <Conversation
        key={chosen.id}
        {...chosen}
        back={() => (router.canGoBack() ? router.back() : router.replace('/inbox'))}
      />
    ) : (
      <List chosen={null} />
    );
  return (
    <View style={{ flex: 1, flexDirection: 'row' }}>
      <View style={{ width: 312, borderRightWidth: 1, borderColor: colors.line }}>
        <List chosen={chosen?.id ?? null} />
      </View>
      <View style={{ flex: 1, minWidth: 0 }}>
        {chosen ? (
          <Conversation key={chosen.id} {...chosen} />
        ) : (
          <View style={{ padding: 32 }}>
            <Words color="quiet">
              Choose a conversation to read it here, with what the loop did between the messages.
            </Words>
          </View>
        )}
      </View>
      {chosen && (
        <View style={{ width: 268, borderLeftWidth: 1, borderColor: colors.line }}>
          <PersonSide {...chosen} />
        </View>
      )}
    </View>
  );
}

function List({ chosen }: { chosen: string | null }) {
  const { colors } = useTheme();
  const params = useLocalSearchParams<{ client?: string; conversation?: string; shelf?: string }>();
  const session = useSession();
  const client = params.conversation ? undefined : params.client;
  const [shelf, setShelf] = useState<Shelf>(
    SHELVES.some((each) => each.key === params.shelf) ? (params.shelf as Shelf) : 'waiting',
  );
  const inset = usePageInset();
  const path = (before?: string | null) =>
    `/inbox?shelf=${shelf}${client ? `&client=${client}` : ''}${before ? `&before=${before}` : ''}`;
  const first = useSWR<InboxPage, Error>(path());
  const [older, setOlder] = useState<InboxPage[]>([]);
  const pages = first.data ? [first.data, ...older] : [];
  const next = pages.at(-1)?.next ?? null;
  const clientName = session.data?.clients.find((each) => each.slug === client)?.name;
  const loadOlder = async () => {
    setOlder([...older, await get<InboxPage>(path(next))]);
  };
  return (
    <ScrollView style={{ flex: 1 }} tabIndex={-1}>
      <View style={{ paddingHorizontal: 16, paddingTop: inset.paddingTop, paddingBottom: 12 }}>
        <PageHead
          title="Inbox"
          actions={
            clientName !== undefined && (
              <QuietButton
                outlined
                title={`${clientName} ×`}
                label={`Only ${clientName}. Show all clients`}
                onPress={() => router.replace('/inbox')}
              />
            )
          }
        />
        <View
          role="tablist"
          aria-label="Conversations by state"
          style={{
            flexDirection: 'row',
            borderWidth: 1,
            borderColor: colors.line,
            borderRadius: 6,
            overflow: 'hidden',
          }}
        >
          {SHELVES.map((each) => {
            const selected = each.key === shelf;
            return (
              <Pressable
                key={each.key}
                role="tab"
                aria-selected={selected}
                onPress={() => {
                  setShelf(each.key);
                  setOlder([]);
                }}
                style={{
                  flex: 1,
                  minHeight: 48,
                  justifyContent: 'center',
                  alignItems: 'center',
                  padding: 4,
                  backgroundColor: selected ? colors.ink : undefined,
                }}
              >
                <Words
                  kind="small"
                  color={selected ? 'paper' : 'ink'}
                  style={{ textAlign: 'center', lineHeight: 18 }}
                >
                  {`${each.words} ${first.data ? first.data.counts[each.key] : ''}`}
                </Words>
              </Pressable>
            );
          })}
        </View>
      </View>
      {first.error && !first.data && (
        <View style={{ padding: 16 }}>
          <Failure error={first.error} again={() => void first.mutate()} />
        </View>
      )}
      {!first.data && !first.error && (
        <View style={{ padding: 16 }}>
          <Waiting />
        </View>
      )}
      {first.data?.rows.length === 0 && (
        <View style={{ padding: 16 }}>
          <Empty title={EMPTY[shelf][0]} words={EMPTY[shelf][1]} />
        </View>
      )}
      <View role="list" aria-label={SHELVES.find((each) => each.key === shelf)!.words}>
        {pages
          .flatMap((page) => page.rows)
          .map((row) => (
            <Row key={row.id} row={row} current={row.id === chosen} />
          ))}
      </View>
      {next && (
        <View style={{ padding: 16 }}>
          <QuietButton outlined title="Show earlier conversations" onPress={() => void loadOlder()} />
        </View>
      )}
    </ScrollView>
  );
}

function Row({ row, current }: { row: InboxRow; current: boolean }) {
  const { colors } = useTheme();
  return (
    <View role="listitem">
      <PlaceLink
        href={`/inbox/${row.client.slug}/${row.id}`}
        current={current}
        style={{
          borderRadius: 0,
          borderTopWidth: 1,
          borderColor: colors.line,
          padding: 16,
          paddingVertical: 12,
          borderLeftWidth: row.held ? 3 : 0,
          borderLeftColor: colors.plum,
          paddingLeft: row.held ? 13 : 16,
          backgroundColor: current ? colors.inset : undefined,
        }}
      >
        <View style={{ flexDirection: 'row', justifyContent: 'space-between', gap: 8 }}>
          <Words kind="strong" numberOfLines={1} style={{ flexShrink: 1 }}>
            {row.who}
          </Words>
          <Words
            kind="code"
            color={row.waitingSince ? 'ochre' : 'quiet'}
            {...hint(exact(row.waitingSince ?? row.lastAt))}
          >
            {ago(row.waitingSince ?? row.lastAt)}
          </Words>
        </View>
        <View style={{ flexDirection: 'row', alignItems: 'center', gap: 6 }}>
          <Words kind="small" numberOfLines={1} style={{ flexShrink: 1 }}>
            {row.client.name}
            {row.held
              ? ` · ■ ${row.held.by ?? row.held.team ?? 'handed over'}`
              : row.loop
                ? ` · ${row.loop}`
                : ''}
          </Words>
          <ChannelMark channel={row.channel} />
        </View>
        <Words kind="small" color="ink" numberOfLines={2}>
          {row.lastWords}
        </Words>
      </PlaceLink>
    </View>
  );
}
