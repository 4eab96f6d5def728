import { useLocalSearchParams } from 'expo-router';
import { useEffect, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { FieldsPage, InletPage, TriedReading } from '@dart-loop/contract';
import type { IncomingMapping } from '@dart-loop/core/sync/incoming';
import { Page } from '../../ui/Page';
import { Failure, Notice, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { clock } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { Refusal } from '../session/Refusal';
import { useAct } from '../session/useAct';
import { useWritten } from '../session/useWritten';
import { NOTHING_READ, linesOf } from './reading';
import { NewAddress } from './NewAddress';
import { heardWords } from './Webhooks';
import { Part } from './InletPart';

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
