import { FlashList } from '@shopify/flash-list';
import { router, useLocalSearchParams } from 'expo-router';
import { memo, useCallback, useEffect, useMemo, useState } from 'react';
import { Pressable, View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import useSWRInfinite from 'swr/infinite';
import type {
  PeopleCount,
  PeoplePage,
  PeopleVocabulary,
  PersonRow,
  SegmentRow,
  Selection,
} from '@dart-loop/contract';
import { may } from '@dart-loop/contract/roles';
import { Field } from '../../ui/Field';
import { Dialog, Menu } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton } from '../../ui/press';
import { ChannelMark, Empty, Failure, Waiting, usePageTitle } from '../../ui/parts';
import { TickMark, TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { ago, exact } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask, type ApiError } from '../session/api';
import { useSession } from '../session/useSession';
import { ActionSheet } from './ActionSheet';
import { Sentence, problemWith } from './Sentence';
import { Tasks } from './Tasks';
import { NewPerson } from './NewPerson';

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

const COLUMNS_KEPT = 'dart-loop.people-columns';

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
  const session = useSession().data;
  const manages = session ? may(session.account.role, 'manage people') : false;
  const [words, setWords] = useState(askedFor);
  const [sentence, setSentence] = useState(askedWhere);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const [acting, setActing] = useState(false);
  const [adding, setAdding] = useState(false);
  const [saving, setSaving] = useState(false);
  const [columns, setColumns] = useState<string[]>(() => {
    const kept =
      typeof localStorage === 'undefined' ? null : localStorage.getItem(`${COLUMNS_KEPT}.${client}`);
    return kept ? (JSON.parse(kept) as string[]) : [];
  });
  const [picking, setPicking] = useState(false);
  usePageTitle('People');
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

  const query = `q=${encodeURIComponent(q)}&where=${encodeURIComponent(where)}`;
  const path = (after?: string | null) =>
    `/clients/${client}/people?${query}&columns=${columns.join(',')}${after ? `&after=${after}` : ''}`;
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const count = useSWR<PeopleCount, Error>(`/clients/${client}/people/count?${query}`, {
    keepPreviousData: true,
  });
  const head = useSWR<PeoplePage, Error>(path(), { keepPreviousData: true });
  const rest = useSWRInfinite<PeoplePage, Error>(
    (index: number, previous: PeoplePage | null) =>
      index === 0
        ? head.data?.next
          ? path(head.data.next)
          : null
        : previous?.next
          ? path(previous.next)
          : null,
    { initialSize: 0, revalidateFirstPage: false, revalidateOnFocus: false },
  );
  const pages = useMemo(
    () => [...(head.data ? [head.data] : []), ...(rest.size > 0 ? (rest.data ?? []) : [])],
    [head.data, rest.data, rest.size],
  );
  const rows = useMemo(() => pages.flatMap((page) => page.rows), [pages]);
  const more = pages.at(-1)?.next ?? null;
  const total = count.data?.total;
  const selection: Selection = chosen && chosen.size > 0 ? { ids: [...chosen] } : { q, where };
  const size = chosen && chosen.size > 0 ? chosen.size : (total ?? 0);
  const toggle = useCallback(
    (id: string) =>
      setChosen((now) => {
        const next = new Set(now ?? []);
        if (!next.delete(id)) next.add(id);
        return next;
      }),
    [],
  );
  const takeOut = (format: string) =>
    window.location.assign(`/api/clients/${client}/people/export?format=${format}&${query}`);

  return (
    <View style={{ flex: 1 }}>
      <FlashList
        data={rows}
        keyExtractor={(row) => row.id}
        extraData={[chosen, columns, wide]}
        renderItem={({ item }) => (
          <Row
            row={item}
            client={client}
            columns={columns}
            known={known}
            chosen={chosen ? chosen.has(item.id) : null}
            onChoose={toggle}
          />
        )}
        contentContainerStyle={{ padding: 16 }}
        onEndReachedThreshold={2}
        onEndReached={() => more && !rest.isValidating && void rest.setSize(rest.size + 1)}
        ListHeaderComponent={
          <View style={{ gap: 8, paddingBottom: 12, width: '100%', maxWidth: wide ? 1100 : undefined }}>
            <View style={{ flexDirection: 'row', alignItems: 'center', gap: 12, flexWrap: 'wrap' }}>
              <Words kind="title">People</Words>
              <Words kind="code" aria-live="polite">
                {total === undefined ? '' : total.toLocaleString('en-GB')}
              </Words>
              <View style={{ flex: 1 }} />
              {manages && (
                <>
                  <QuietButton
                    outlined
                    title={chosen ? 'Choose none' : 'Choose'}
                    onPress={() => setChosen(chosen ? null : new Set())}
                  />
                  <Menu
                    label="Add people"
                    title="Add people"
                    items={[
                      {
                        key: 'file',
                        words: 'Bring in a file',
                        more: 'CSV, vCard or JSON Lines, looked at before anything is changed',
                        onChoose: () => router.push(`/${client}/import`),
                      },
                      { key: 'one', words: 'Write down one person', onChoose: () => setAdding(true) },
                    ]}
                  >
                    <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
                      Add
                    </Words>
                  </Menu>
                  <Menu
                    label="More about people"
                    title="People"
                    items={[
                      {
                        key: 'columns',
                        words: 'Columns',
                        more: 'Which fields stand in the list',
                        onChoose: () => setPicking(true),
                      },
                      ...(['csv', 'jsonl', 'vcard'] as const).map((format) => ({
                        key: format,
                        words: `Take out as ${{ csv: 'CSV', jsonl: 'JSON Lines', vcard: 'vCard' }[format]}`,
                        more: `${(total ?? 0).toLocaleString('en-GB')} people, as they are found here`,
                        onChoose: () => takeOut(format),
                      })),
                      {
                        key: 'fields',
                        words: 'Fields',
                        more: 'What is known of people, and its types',
                        onChoose: () => router.push(`/${client}/fields`),
                      },
                      {
                        key: 'lists',
                        words: 'Lists',
                        more: 'Memberships and their wordings',
                        onChoose: () => router.push(`/${client}/lists`),
                      },
                    ]}
                  >
                    <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
                      More
                    </Words>
                  </Menu>
                </>
              )}
            </View>
            <View style={{ flexDirection: wide ? 'row' : 'column', gap: 12 }}>
              <View style={{ flex: wide ? 1 : undefined }}>
                <Field
                  label="Search people"
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
                  count={where === sentence.trim() ? count.data : undefined}
                />
              </View>
            </View>
            <Segments
              client={client}
              where={where}
              manages={manages}
              onChoose={setSentence}
              onSave={() => setSaving(true)}
              canSave={readable && where !== ''}
            />
            {/* Above what comes and goes with a search, so that nothing moves under a finger. */}
            {manages && <Tasks client={client} most={3} onlyUnderWay />}
            {manages && (where !== '' || q !== '' || chosen) && size > 0 && (
              <View style={{ flexDirection: 'row' }}>
                <QuietButton
                  outlined
                  title={`Do something with ${chosen && chosen.size > 0 ? (chosen.size === 1 ? 'the 1 chosen' : `the ${chosen.size} chosen`) : size === 1 ? 'this person' : `these ${size.toLocaleString('en-GB')}`}`}
                  onPress={() => setActing(true)}
                />
              </View>
            )}
          </View>
        }
        ListEmptyComponent={
          head.error ? (
            <Failure error={head.error} again={() => void head.mutate()} />
          ) : !head.data ? (
            <Waiting />
          ) : q || where ? (
            <Empty
              title="Nobody fits"
              words={[
                q && `No name, number, handle or email has “${q}” in it.`,
                where && 'Nobody fits the sentence.',
              ]
                .filter(Boolean)
                .join(' ')}
            />
          ) : (
            <Empty
              title="No people yet"
              words="Everybody who writes to one of the client’s lines stands here, with what is known of them and who or what said so."
              action={
                manages ? (
                  <ActionButton title="Bring in a file" onPress={() => router.push(`/${client}/import`)} />
                ) : undefined
              }
            />
          )
        }
        ListFooterComponent={
          more ? (
            <Waiting words="More" />
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
          open={acting}
          onClose={() => setActing(false)}
          onBegun={() => setActing(false)}
        />
      )}
      {manages && <NewPerson client={client} open={adding} onClose={() => setAdding(false)} />}
      <SaveSegment
        client={client}
        where={where}
        open={saving}
        onClose={() => setSaving(false)}
        rule={count.data?.rule}
      />
      <Dialog title="Columns" open={picking} onClose={() => setPicking(false)}>
        <View style={{ padding: 12 }}>
          <Words kind="small">At most six. On a phone they stand below the name.</Words>
          {(known?.fields ?? []).map(({ key, name }) => (
            <TickRow
              key={key}
              label={name}
              on={columns.includes(key)}
              onChange={(on) => {
                const next = on ? [...columns, key].slice(0, 6) : columns.filter((each) => each !== key);
                setColumns(next);
                localStorage.setItem(`${COLUMNS_KEPT}.${client}`, JSON.stringify(next));
              }}
            />
          ))}
        </View>
      </Dialog>
    </View>
  );
}

/** Drawn again only when something of its own changes: others come and go beside it all the time. */
const Row = memo(function Row({
  row,
  client,
  columns,
  known,
  chosen,
  onChoose,
}: {
  row: PersonRow;
  client: string;
  columns: string[];
  known: PeopleVocabulary | undefined;
  chosen: boolean | null;
  onChoose: (id: string) => void;
}) {
  const { colors, wide } = useTheme();
  const name = (key: string) =>
    known?.fields.find((field) => field.key === key)?.name ?? key.replaceAll('_', ' ');
  const facts =
    columns.length > 0
      ? columns.flatMap((key) => (row.cells[key] ? [`${name(key)} ${row.cells[key]}`] : []))
      : row.facts;
  return (
    <View
      style={{
        flexDirection: 'row',
        alignItems: 'center',
        borderTopWidth: 1,
        borderColor: colors.line,
        width: '100%',
        maxWidth: wide ? 1100 : undefined,
      }}
    >
      {chosen !== null && (
        <Pressable
          role="checkbox"
          aria-checked={chosen}
          aria-label={`Choose ${row.name}`}
          onPress={() => onChoose(row.id)}
          style={{ width: 44, height: 44, alignItems: 'center', justifyContent: 'center' }}
        >
          <TickMark on={chosen} />
        </Pressable>
      )}
      <PlaceLink
        href={`/${client}/people/${row.id}`}
        style={{ flex: 1, borderRadius: 0, paddingVertical: 10, paddingHorizontal: 8, minHeight: 64 }}
      >
        <View style={{ flexDirection: 'row', gap: 8, alignItems: 'center' }}>
          <Words kind="strong" numberOfLines={1} style={{ flexShrink: 1 }}>
            {row.name}
          </Words>
          {row.channels.map((channel) => (
            <ChannelMark key={channel} channel={channel} />
          ))}
          <View style={{ flex: 1 }} />
          {wide && columns.length > 0 ? null : (
            <Words kind="code" {...({ title: exact(row.lastSeenAt) } as object)}>
              {ago(row.lastSeenAt)}
            </Words>
          )}
        </View>
        {wide && columns.length > 0 ? (
          <View style={{ flexDirection: 'row', gap: 12 }}>
            {columns.map((key) => (
              <View key={key} style={{ flex: 1 }}>
                <Words kind="small">{name(key)}</Words>
                <Words kind="small" color="ink" numberOfLines={1}>
                  {row.cells[key] ?? '–'}
                </Words>
              </View>
            ))}
          </View>
        ) : (
          <Words kind="small" numberOfLines={1}>
            {[...facts, ...row.tags.map((tag) => `tag ${tag}`)].join(' · ') || 'nothing known yet'}
          </Words>
        )}
      </PlaceLink>
    </View>
  );
});

/** The saved segments, each a tap away. */
function Segments({
  client,
  where,
  manages,
  canSave,
  onChoose,
  onSave,
}: {
  client: string;
  where: string;
  manages: boolean;
  canSave: boolean;
  onChoose: (sentence: string) => void;
  onSave: () => void;
}) {
  const { colors } = useTheme();
  const { mutate } = useSWRConfig();
  const [problem, setProblem] = useState<string | null>(null);
  const [removing, setRemoving] = useState<string | null>(null);
  const { data } = useSWR<SegmentRow[], Error>(`/clients/${client}/segments`);
  const current = data?.find((segment) => segment.words === where);
  const forget = async (segment: SegmentRow) => {
    try {
      await ask('DELETE', `/clients/${client}/segments/${segment.id}`);
      setProblem(null);
      await mutate(`/clients/${client}/segments`);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  if (!data || (data.length === 0 && !canSave)) return null;
  return (
    <View role="group" aria-label="Segments" style={{ gap: 6 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6, alignItems: 'center' }}>
        {data.length > 0 && <Words kind="smallStrong">Segments</Words>}
        {data.map((segment) => (
          <Pressable
            key={segment.id}
            role="button"
            aria-pressed={segment === current}
            onPress={() => onChoose(segment === current ? '' : segment.words)}
            style={{
              minHeight: 36,
              justifyContent: 'center',
              paddingHorizontal: 10,
              borderRadius: 6,
              borderWidth: 1,
              borderColor: segment === current ? colors.ink : colors.line,
              backgroundColor: segment === current ? colors.inset : colors.sheet,
            }}
          >
            <Words kind={segment === current ? 'smallStrong' : 'small'} color="ink">
              {segment.name}
            </Words>
          </Pressable>
        ))}
        {manages && canSave && !current && (
          <QuietButton title="Save as a segment" tone="teal" onPress={onSave} />
        )}
        {manages && current && removing !== current.id && (
          <QuietButton
            title="Remove the segment"
            label={`Remove the segment ${current.name}`}
            tone="quiet"
            onPress={() => setRemoving(current.id)}
          />
        )}
        {manages && current && removing === current.id && (
          <>
            <QuietButton
              outlined
              tone="red"
              title={`Remove ${current.name}`}
              onPress={() => void forget(current)}
            />
            <QuietButton title="Keep it" onPress={() => setRemoving(null)} />
          </>
        )}
      </View>
      {problem && (
        <Words kind="small" color="red" role="alert">
          {problem}
        </Words>
      )}
    </View>
  );
}

/** The sentence as a segment with a name, to be asked for in splits and exports. */
function SaveSegment({
  client,
  where,
  rule,
  open,
  onClose,
}: {
  client: string;
  where: string;
  rule: unknown;
  open: boolean;
  onClose: () => void;
}) {
  const { mutate } = useSWRConfig();
  const [name, setName] = useState('');
  const [error, setError] = useState<ApiError | null>(null);
  const save = async () => {
    try {
      await ask('POST', `/clients/${client}/segments`, { name, rule });
      await mutate(
        (key) =>
          typeof key === 'string' && (key === `/clients/${client}/segments` || key.endsWith('/vocabulary')),
      );
      setName('');
      setError(null);
      onClose();
    } catch (problem) {
      setError(problem as ApiError);
    }
  };
  return (
    <Dialog
      title="Save as a segment"
      open={open}
      onClose={onClose}
      foot={
        <ActionButton title="Save the segment" disabled={name.trim() === ''} onPress={() => void save()} />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Words>{where}</Words>
        <Field
          label="Its name"
          value={name}
          onChangeText={setName}
          problem={error?.message}
          autoFocus
          hint="Splits ask for it by this name: “in the segment Regulars”."
        />
      </View>
    </Dialog>
  );
}
