import { FlashList } from '@shopify/flash-list';
import { router, useLocalSearchParams } from 'expo-router';
import { useCallback, useEffect, useState } from 'react';
import { View } from 'react-native';
import type { Selection } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { Field } from '../../../ui/Field';
import { PageHead, usePageInset } from '../../../ui/Page';
import { Empty, Failure, Waiting } from '../../../ui/parts';
import { ActionButton, QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { useMay } from '../../session/useSession';
import { ActionSheet } from '../ActionSheet';
import { NewPerson } from '../NewPerson';
import { Tasks } from '../Tasks';
import { PeopleActions } from './PeopleActions';
import { ColumnHeads, PersonLine } from './PersonLine';
import { Segments } from './Segments';
import { Sentence, problemWith } from './Sentence';
import { ColumnsDialog, useColumns, useNamedColumns } from './useColumns';
import { usePeople } from './usePeople';

const SETTLES_MS = 250;

/** The value once it has stood still for a moment. */
function useSettled<T>(value: T, ms = SETTLES_MS): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/**
 * A client's people: found by a search and a sentence, as many as there are, a page at a time as one scrolls.
 */
export function People() {
  const { colors, wide } = useTheme();
  const {
    client,
    q: askedFor = '',
    where: askedWhere = '',
  } = useLocalSearchParams<{ client: string; q?: string; where?: string }>();
  const manages = useMay()('manage people');
  const [words, setWords] = useState(askedFor);
  const [sentence, setSentence] = useState(askedWhere);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const [sheet, setSheet] = useState<'act' | 'add' | 'columns' | null>(null);
  const columns = useColumns(client);
  const q = useSettled(words.trim());
  const typed = useSettled(sentence.trim());
  const readable = problemWith(typed) === null;
  // What was found last stays while a sentence is not finished.
  const [where, setWhere] = useState(typed);
  useEffect(() => {
    if (readable) setWhere(typed);
  }, [readable, typed]);
  useEffect(() => {
    router.setParams({ q: q || undefined, where: where || undefined });
    setChosen(null);
  }, [q, where]);

  const people = usePeople({ client, q, where, columns: columns.keys });
  const { known, count, rows } = people;
  const named = useNamedColumns(columns.keys, known);
  const total = count?.total ?? 0;
  const isChosen = chosen !== null && chosen.size > 0;
  const selection: Selection = isChosen ? { ids: [...chosen] } : { q, where };
  const size = isChosen ? chosen.size : total;
  const toggle = useCallback(
    (id: string) =>
      setChosen((now) => {
        const next = new Set(now ?? []);
        if (!next.delete(id)) next.add(id);
        return next;
      }),
    [],
  );
  const close = () => setSheet(null);
  return (
    <View style={{ flex: 1 }}>
      <FlashList
        data={rows}
        keyExtractor={(row) => row.id}
        extraData={[chosen, named, wide]}
        renderItem={({ item }) => (
          <PersonLine
            row={item}
            client={client}
            columns={named}
            chosen={chosen ? chosen.has(item.id) : null}
            onChoose={toggle}
          />
        )}
        contentContainerStyle={{ ...usePageInset(), paddingBottom: 16 }}
        onEndReachedThreshold={2}
        onEndReached={people.loadMore}
        ListHeaderComponent={
          <View style={{ gap: 8, paddingBottom: wide ? 0 : 12 }}>
            <PageHead
              title="People"
              about={count === undefined ? ' ' : counted(total, 'person', 'people')}
              actions={
                manages && (
                  <PeopleActions
                    client={client}
                    total={total}
                    selecting={chosen !== null}
                    onSelecting={() => setChosen(chosen ? null : new Set())}
                    onAdd={() => setSheet('add')}
                    onColumns={() => setSheet('columns')}
                    exportAs={people.exportAs}
                  />
                )
              }
            />
            <View style={{ flexDirection: wide ? 'row' : 'column', gap: wide ? 12 : 8 }}>
              <View style={{ flex: wide ? 1 : undefined }}>
                <Field
                  label="Search"
                  placeholder="Name, number, handle or email"
                  value={words}
                  onChangeText={setWords}
                  inputMode="search"
                />
              </View>
              <View style={{ flex: wide ? 2 : undefined }}>
                <Sentence
                  value={sentence}
                  onChange={setSentence}
                  known={known}
                  count={where === sentence.trim() ? count : undefined}
                />
              </View>
            </View>
            <Segments
              client={client}
              where={where}
              rule={count?.rule}
              manages={manages}
              canSave={readable && where !== ''}
              onChoose={setSentence}
            />
            {/* Above what comes and goes with a search, so that nothing moves under a finger. */}
            {manages && <Tasks client={client} most={3} onlyUnderWay />}
            {manages && (where !== '' || q !== '' || chosen) && size > 0 && (
              <View style={{ flexDirection: 'row' }}>
                <QuietButton
                  outlined
                  title={`Change ${isChosen ? 'the selected ' : ''}${counted(size, 'person', 'people')} …`}
                  onPress={() => setSheet('act')}
                />
              </View>
            )}
            {wide && rows.length > 0 && <ColumnHeads columns={named} chooses={chosen !== null} />}
          </View>
        }
        ListEmptyComponent={
          people.error ? (
            <Failure error={people.error} again={people.again} />
          ) : !people.isLoaded ? (
            <Waiting />
          ) : (
            <NoPeople client={client} q={q} where={where} manages={manages} />
          )
        }
        ListFooterComponent={
          people.hasMore ? (
            <Waiting words="More people" />
          ) : (
            <View style={{ borderTopWidth: rows.length > 0 ? 1 : 0, borderColor: colors.line, height: 24 }} />
          )
        }
      />
      {manages && (
        <ActionSheet
          client={client}
          people={selection}
          total={size}
          known={known}
          open={sheet === 'act'}
          onClose={close}
          onBegun={close}
        />
      )}
      {manages && <NewPerson client={client} open={sheet === 'add'} onClose={close} />}
      <ColumnsDialog columns={columns} known={known} open={sheet === 'columns'} onClose={close} />
    </View>
  );
}

/** Nobody was found, or nobody is there yet. */
function NoPeople({
  client,
  q,
  where,
  manages,
}: {
  client: string;
  q: string;
  where: string;
  manages: boolean;
}) {
  if (q || where)
    return (
      <Empty
        title="No matches"
        words={[
          q && `No name, number, handle or email contains “${q}”.`,
          where && 'Nobody matches the filter.',
        ]
          .filter(Boolean)
          .join(' ')}
      />
    );
  return (
    <Empty
      title="No people yet"
      words="Everybody who writes to one of the client’s lines is added here, with what is known about them and where it came from."
      action={
        manages ? (
          <ActionButton title="Import people" onPress={() => router.push(`/${client}/import`)} />
        ) : undefined
      }
    />
  );
}
