import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { FlatList, View } from 'react-native';
import useSWR from 'swr';
import useSWRInfinite from 'swr/infinite';
import type { PeoplePage, PersonRow } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { PlaceLink } from '../../ui/press';
import { ChannelMark, Empty, Failure, Waiting, usePageTitle } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { ago, exact } from '../../ui/time';
import { Words } from '../../ui/Words';

/** A client's people: as many as there are, a page at a time as one scrolls. */
export function People() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const [words, setWords] = useState('');
  usePageTitle('People');
  const path = (after?: string | null) =>
    `/clients/${client}/people?q=${encodeURIComponent(words.trim())}${after ? `&after=${after}` : ''}`;
  const head = useSWR<PeoplePage, Error>(path(), { keepPreviousData: true });
  const rest = useSWRInfinite<PeoplePage, Error>(
    (index: number, previous: PeoplePage | null) =>
      index === 0 ? (head.data?.next ? path(head.data.next) : null) : previous?.next ? path(previous.next) : null,
    {
      initialSize: 0,
      revalidateFirstPage: false,
    },
  );
  const pages = [...(head.data ? [head.data] : []), ...(rest.size > 0 ? (rest.data ?? []) : [])];
  const rows = pages.flatMap((page) => page.rows);
  const more = pages.at(-1)?.next ?? null;
  return (
    <FlatList
      style={{ flex: 1 }}
      tabIndex={-1}
      data={rows}
      keyExtractor={(row) => row.id}
      renderItem={({ item }) => <Row row={item} client={client} />}
      contentContainerStyle={{ padding: 16, width: '100%', maxWidth: 860, alignSelf: 'center' }}
      initialNumToRender={30}
      onEndReachedThreshold={1}
      onEndReached={() => more && !rest.isLoading && void rest.setSize(rest.size + 1)}
      ListHeaderComponent={
        <View style={{ gap: 12, paddingBottom: 12 }}>
          <View style={{ flexDirection: 'row', alignItems: 'baseline', gap: 12 }}>
            <Words kind="title">People</Words>
            <Words kind="code" aria-live="polite">
              {head.data ? head.data.total.toLocaleString('en-GB') : ''}
            </Words>
          </View>
          <Field
            label="Search people"
            hideLabel
            placeholder="Name, number, handle, email or tag"
            value={words}
            onChangeText={setWords}
            inputMode="search"
          />
        </View>
      }
      ListEmptyComponent={
        head.error ? (
          <Failure error={head.error} again={() => void head.mutate()} />
        ) : !head.data ? (
          <Waiting />
        ) : words.trim() ? (
          <Empty title="Nobody fits" words={`No name, number, handle, email or tag has “${words.trim()}” in it.`} />
        ) : (
          <Empty
            title="No people yet"
            words="Everybody who writes to one of the client’s lines stands here, with what is known of them and who or what said so."
          />
        )
      }
      ListFooterComponent={
        more ? <Waiting words="More" /> : <View style={{ borderTopWidth: rows.length > 0 ? 1 : 0, borderColor: colors.line, height: 24 }} />
      }
    />
  );
}

function Row({ row, client }: { row: PersonRow; client: string }) {
  const { colors } = useTheme();
  return (
    <PlaceLink
      href={`/${client}/people/${row.id}`}
      style={{ borderTopWidth: 1, borderColor: colors.line, borderRadius: 0, paddingVertical: 10, paddingHorizontal: 8 }}
    >
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'center' }}>
        <Words kind="strong" numberOfLines={1} style={{ flexShrink: 1 }}>
          {row.name}
        </Words>
        {row.channels.map((channel) => (
          <ChannelMark key={channel} channel={channel} />
        ))}
        <View style={{ flex: 1 }} />
        <Words kind="code" {...({ title: exact(row.lastSeenAt) } as object)}>
          {ago(row.lastSeenAt)}
        </Words>
      </View>
      <Words kind="small" numberOfLines={2}>
        {[...row.facts, ...row.tags.map((tag) => `tag ${tag}`)].join(' · ') || 'nothing known yet'}
      </Words>
    </PlaceLink>
  );
}
