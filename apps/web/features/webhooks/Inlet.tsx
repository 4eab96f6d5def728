import { useLocalSearchParams } from 'expo-router';
import { useEffect, useState } from 'react';
import { View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import useSWR from 'swr';
import type { FieldsPage, InletPage, TriedReading } from '@dart-loop/contract';
import { fieldKey } from '@dart-loop/core/language/slug';
import type { IncomingMapping, Into, WhoBy } from '@dart-loop/core/sync/incoming';
import type { Winner } from '@dart-loop/core/sync/settle';
import { Menu, type MenuItem } from '../../ui/Menu';
import { Page } from '../../ui/Page';
import { Failure, Notice, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { clock } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { Refusal } from '../session/Refusal';
import { useAct } from '../session/useAct';
import { useWritten } from '../session/useWritten';
import { NOTHING_READ, linesOf, valueOf, withChangedAt, withInto, withWho, type PartLine } from './reading';
import { NewAddress } from './NewAddress';
import { heardWords } from './Webhooks';

/** One incoming webhook: an example is listened for, what its parts are is pointed at, tried, and kept. */
export function Inlet() {
  const { client, inlet } = useLocalSearchParams<{ client: string; inlet: string }>();
  const path = `/clients/${client}/webhooks/${inlet}`;
  const { data, error, mutate } = useSWR<InletPage, Error>(path, {
    refreshInterval: (page) => (page?.listensUntil ? 1_500 : 0),
  });
  return (
    <Page title={data?.hook ?? 'Webhook'} back={{ href: `/${client}/webhooks`, words: 'Webhooks' }}>
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && (
        <Open
          client={client}
          path={path}
          page={data}
          onPage={(next) => void mutate(next, { revalidate: false })}
        />
      )}
    </Page>
  );
}

function Open({
  client,
  path,
  page,
  onPage,
}: {
  client: string;
  path: string;
  page: InletPage;
  onPage: (next: InletPage) => void;
}) {
  const fields = useSWR<FieldsPage, Error>(`/clients/${client}/fields`).data?.fields ?? [];
  const { example } = page;
  const { written, changed, seen, write, leave } = useWritten<{ mapping: IncomingMapping; tied: string }>(
    { mapping: page.reading ?? example?.guess ?? NOTHING_READ, tied: page.destinationId ?? 'none' },
    page.revision,
  );
  const { mapping, tied } = written;
  /** What would become of the example, as the webhook was read when it was tried. */
  const [tried, setTried] = useState<{ words: string[]; revision: string } | null>(null);
  /** What was to be kept last. */
  const [wanted, setWanted] = useState<IncomingMapping | null>(null);
  const { act, busy, failure } = useAct();
  const change = (next: Partial<typeof written>) => {
    write((now) => ({ ...now, ...next }));
    setTried(null);
  };
  // A new example brings its own guess, unless there is a mapping already.
  const guess = example?.guess;
  const from = example?.at;
  useEffect(() => {
    if (from === undefined || page.reading) return;
    change({ mapping: guess! });
    // Told by its moment: the guess is made anew with every answer.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [from]);
  const destinationId = tied === 'none' ? null : tied;
  const listen = (on: boolean) =>
    act(async () => onPage(await ask<InletPage>('POST', `${path}/listen`, { on })));
  const settle = (next: InletPage) => {
    onPage(next);
    leave();
    setTried(null);
  };
  /** `over`: whatever somebody else has made of it meanwhile. */
  const keep = (reading: IncomingMapping | null, over = false) =>
    act(async () => {
      setWanted(reading);
      const body = { reading, destinationId: reading ? destinationId : null };
      settle(await ask<InletPage>('PUT', over ? `${path}/reading` : `${path}/reading?seen=${seen}`, body));
    });
  const tryIt = () =>
    act(async () => {
      const { words } = await ask<TriedReading>('POST', `${path}/try`, { reading: mapping, destinationId });
      setTried({ words, revision: page.revision });
    });
  const lines = linesOf(example, mapping);
  return (
    <View style={{ gap: 16 }}>
      <Words kind="small">{heardWords(page)}</Words>
      <NewAddress path={path} hook={page.hook} />
      {page.refusal && <Notice tone="warning">{`The last call was refused: ${page.refusal}`}</Notice>}
      <Refusal
        failure={failure}
        busy={busy}
        onTheirs={() => void act(async () => settle(await ask<InletPage>('GET', path)))}
        onMine={() => void keep(wanted, true)}
      />
      {!page.reading && !example && !page.listensUntil && (
        <Words>
          People can be read from any call to this webhook: they are found or added, and their fields are
          filled. Start listening, send one call from the other system, and say what each part of it is.
        </Words>
      )}
      {page.listensUntil && (
        <StateLine tone="ahead" kind="text" color="ink" role="status">
          {`Listens till ${clock(page.listensUntil)}. Send one call to its address now; it is kept as the example.`}
        </StateLine>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {page.listensUntil ? (
          <QuietButton outlined title="Stop listening" disabled={busy} onPress={() => void listen(false)} />
        ) : (
          <QuietButton
            outlined
            title={example || page.reading ? 'Listen for another example' : 'Listen for an example'}
            disabled={busy}
            onPress={() => void listen(true)}
          />
        )}
        {page.reading && (
          <QuietButton
            title="Stop reading people"
            tone="red"
            disabled={busy}
            onPress={() => void keep(null)}
          />
        )}
      </View>
      {lines.length > 0 && (
        <View style={{ gap: 4 }}>
          <Words kind="heading">Parts of a call</Words>
          <View role="list" aria-label="Parts">
            {lines.map((line) => (
              <Part
                key={line.path}
                line={line}
                hasExample={example !== null}
                mapping={mapping}
                fields={fields}
                onChange={(next) => change({ mapping: next })}
              />
            ))}
          </View>
          {mapping.who.length === 0 && (
            <StateLine tone="failing">
              Nothing identifies the person yet. Mark one part as an id, an email address or a number.
            </StateLine>
          )}
        </View>
      )}
      {tied === 'none' && mapping.who.some(({ by }) => by === 'their id') && (
        <StateLine tone="warning">
          The id it has over there is known only of people of a destination: say below which one it tells of.
        </StateLine>
      )}
      {lines.length > 0 && page.destinations.length > 0 && (
        <View style={{ gap: 4 }}>
          <PickRow
            label="Tells of changes in"
            value={tied}
            options={[
              ['none', 'no destination'] as const,
              ...page.destinations.map(({ id, name }) => [id, name] as const),
            ]}
            onChange={(id) => change({ tied: id })}
          />
          <Words kind="small">
            So that what we sent there does not count as a change when it comes back. Where our value wins, it
            is sent there again.
          </Words>
        </View>
      )}
      {lines.length > 0 && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
          {changed && (
            <ActionButton
              title="Save"
              busy={busy}
              disabled={mapping.who.length === 0}
              onPress={() => void keep(mapping)}
            />
          )}
          {example && (
            <QuietButton
              outlined
              title="Test with the example"
              disabled={busy || mapping.who.length === 0}
              onPress={() => void tryIt()}
            />
          )}
        </View>
      )}
      {tried?.revision === page.revision && (
        <View role="status" style={{ gap: 2 }}>
          {tried.words.map((words) => (
            <Words key={words}>{words}</Words>
          ))}
          <Words kind="small">Nothing has been changed.</Words>
        </View>
      )}
    </View>
  );
}

const intoWords = (into: Into, fields: FieldsPage['fields']): string => {
  if (into.as !== 'field') return into.as;
  const field = fields.find(({ key }) => key === into.field);
  return field ? field.name : `new field ${into.field.replaceAll('_', ' ')}`;
};
const BY: Record<WhoBy, string> = {
  'their id': 'the id it has over there',
  email: 'an email address',
  phone: 'a number',
  id: 'our id',
};
const WINS: Record<Winner, string> = { newest: 'the newest wins', theirs: 'theirs wins', ours: 'ours wins' };
const NAMES = ['first name', 'last name', 'whole name', 'language', 'tags'] as const;

/** A part of what comes: what it is called, what it says in the example, and what becomes of it. */
function Part({
  line: { path, value, part, who, isChangedAt },
  hasExample,
  mapping,
  fields,
  onChange,
}: {
  line: PartLine;
  hasExample: boolean;
  mapping: IncomingMapping;
  fields: FieldsPage['fields'];
  onChange: (next: IncomingMapping) => void;
}) {
  const { colors, wide } = useTheme();
  const own = fieldKey(path.split('.').at(-1)!);
  const isNew = !fields.some(({ key }) => key === own);
  const into = part ? intoWords(part.into, fields) : isChangedAt ? 'when it was changed' : 'nothing';
  const choose = (next: Into | null) =>
    onChange(withInto(isChangedAt ? withChangedAt(mapping, null) : mapping, path, next));
  const items: MenuItem[] = [
    { key: 'nothing', words: 'nothing', chosen: !part && !isChangedAt, onChoose: () => choose(null) },
    ...fields.map(({ key, name, type }) => ({
      key: `field ${key}`,
      words: name,
      more: `field, ${type}`,
      chosen: part?.into.as === 'field' && part.into.field === key,
      onChoose: () => choose({ as: 'field', field: key, type }),
    })),
    ...(isNew
      ? [
          {
            key: 'new',
            words: `new field ${own.replaceAll('_', ' ')}`,
            chosen: part?.into.as === 'field' && part.into.field === own,
            onChoose: () =>
              choose({
                as: 'field',
                field: own,
                type:
                  typeof value === 'number'
                    ? 'number'
                    : typeof value === 'boolean'
                      ? 'yes/no'
                      : Array.isArray(value)
                        ? 'several of'
                        : 'text',
              }),
          } satisfies MenuItem,
        ]
      : []),
    ...NAMES.map((as) => ({
      key: as,
      words: as,
      chosen: part?.into.as === as,
      onChoose: () => choose({ as }),
    })),
    {
      key: 'changed at',
      words: 'when it was changed',
      more: 'by the other side’s clock, for the newest to win',
      chosen: isChangedAt,
      onChoose: () => onChange(withChangedAt(withInto(mapping, path, null), path)),
    },
  ];
  return (
    <View
      role="listitem"
      style={{
        borderTopWidth: 1,
        borderColor: colors.line,
        paddingVertical: 6,
        flexDirection: wide ? 'row' : 'column',
        columnGap: 8,
        alignItems: wide ? 'center' : 'stretch',
      }}
    >
      <View style={{ width: wide ? 330 : undefined, minWidth: 0 }}>
        <Words kind="code" color="ink" style={webStyle({ wordBreak: 'break-all' })}>
          {path}
        </Words>
        {hasExample && (
          <Words kind="small" style={webStyle({ wordBreak: 'break-word' })}>
            {valueOf(value)}
          </Words>
        )}
      </View>
      <View
        style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', flex: wide ? 1 : undefined }}
      >
        <Words aria-hidden kind="small">
          →
        </Words>
        <Menu label={`What ${path} goes into: ${into}`} title={`What ${path} goes into`} items={items}>
          <Words
            kind={part || isChangedAt ? 'strong' : 'text'}
            color={part || isChangedAt ? 'teal' : 'quiet'}
            style={{ paddingHorizontal: 8 }}
          >
            {into}
          </Words>
        </Menu>
        {part && part.into.as !== 'tags' && (
          <Menu
            label={`Who wins for ${path}: ${WINS[part.wins]}`}
            title="If we have another value"
            items={(part.into.as === 'field'
              ? (['newest', 'theirs', 'ours'] as const)
              : (['theirs', 'ours'] as const)
            ).map((wins) => ({
              key: wins,
              words: WINS[wins],
              chosen: part.wins === wins,
              onChoose: () =>
                onChange({
                  ...mapping,
                  parts: mapping.parts.map((each) => (each.from === path ? { ...each, wins } : each)),
                }),
            }))}
          >
            <Words kind="small" style={{ paddingHorizontal: 8 }}>
              {WINS[part.wins]}
            </Words>
          </Menu>
        )}
        <View style={{ flex: 1 }} />
        <Menu
          label={`${path} ${who ? `says who: ${BY[who]}` : 'who? no'}. Change`}
          title={`Whether ${path} says who it is`}
          items={[
            {
              key: 'no',
              words: 'no',
              chosen: who === null,
              onChoose: () => onChange(withWho(mapping, path, null)),
            },
            ...(Object.keys(BY) as WhoBy[]).map((by) => ({
              key: by,
              words: BY[by],
              chosen: who === by,
              onChoose: () => onChange(withWho(mapping, path, by)),
            })),
          ]}
        >
          <Words kind="small" color={who ? 'ink' : 'quiet'} style={{ paddingHorizontal: 8 }}>
            {who ? `says who: ${BY[who]}` : 'who?'}
          </Words>
        </Menu>
      </View>
    </View>
  );
}
