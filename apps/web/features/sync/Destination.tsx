import { router, useLocalSearchParams } from 'expo-router';
import { useMemo, useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { DestinationPage, FieldsPage, PeopleVocabulary } from '@dart-loop/contract';
import { DESTINATION_KINDS, type DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import { Dialog } from '../../ui/Menu';
import { Page } from '../../ui/Page';
import { Failure, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { Refusal } from '../session/Refusal';
import { useAct } from '../session/useAct';
import { isLive, useLeaving, useMay, useSession } from '../session/useSession';
import { useWritten } from '../session/useWritten';
import { Copies } from './Copies';
import { Deliveries } from './Deliveries';
import { draftOf, emptyDraft, savedOf, type DestinationDraft } from './draft';
import { MappingEditor, guessedColumn } from './MappingEditor';
import { SetUp } from './SetUp';
import { destinationState, whereWords } from './stateWords';
import { Preview } from './DestinationPreview';

/**
 * One destination: where it goes, what goes into which column, how it looks on real people, and what went
 * out.
 */
export function Destination() {
  const { client, destination } = useLocalSearchParams<{ client: string; destination: string }>();
  const isNew = destination === 'new';
  const page = useSWR<DestinationPage, Error>(
    isNew ? null : `/clients/${client}/destinations/${destination}`,
  );
  if (!isNew && !page.data)
    return (
      <Page title="Destination" back={{ href: `/${client}/sync`, words: 'Sync' }}>
        {page.error ? <Failure error={page.error} again={() => void page.mutate()} /> : <Waiting />}
      </Page>
    );
  return (
    <Open
      key={destination}
      client={client}
      page={page.data ?? null}
      onPage={(next) => void page.mutate(next, { revalidate: false })}
    />
  );
}

function Open({
  client,
  page,
  onPage,
}: {
  client: string;
  page: DestinationPage | null;
  onPage: (next: DestinationPage) => void;
}) {
  const path = `/clients/${client}/destinations`;
  const { mutate } = useSWRConfig();
  const stands = useMemo(() => (page ? draftOf(page) : emptyDraft('contact')), [page]);
  const { written: draft, changed, seen, write, leave } = useWritten(stands, page?.revision);
  const { see } = useLocalSearchParams<{ see?: string }>();
  const [face, setFace] = useState<'columns' | 'set up' | 'deliveries' | 'clients'>(
    page ? (see === 'deliveries' ? 'deliveries' : 'columns') : 'set up',
  );
  const [removing, setRemoving] = useState(false);
  const fields = useSWR<FieldsPage, Error>(`/clients/${client}/fields`).data?.fields ?? [];
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const session = useSession().data;
  const others = useMay()('change sync') && (session?.clients.length ?? 0) > 1;
  const own = `${path}/${page?.id}`;
  const change = (next: Partial<DestinationDraft>) => write((now) => ({ ...now, ...next }));
  const { act, busy, failure } = useAct(() =>
    mutate((key) => isLive(key) && (key === path || (page !== null && key === `${own}/preview`))),
  );
  const leaving = useLeaving(own);
  const show = (work: () => Promise<DestinationPage>) => act(async () => onPage(await work()));
  const settle = (next: DestinationPage) => {
    onPage(next);
    leave();
  };
  /** `over`: whatever somebody else has made of it meanwhile. */
  const keep = (over = false) =>
    act(async () => {
      const saved = savedOf(draft);
      if (!saved.ok) throw new Error(saved.problem);
      if (!page)
        return router.replace(
          `/${client}/sync/${(await ask<DestinationPage>('POST', path, saved.destination)).id}`,
        );
      settle(await ask<DestinationPage>('PUT', over ? own : `${own}?seen=${seen}`, saved.destination));
    });
  const readColumns = () =>
    show(async () => {
      const next = await ask<DestinationPage>('POST', `${own}/columns`, {});
      const missing = (next.columns ?? []).filter(({ name }) => !draft.mapping.some(({ to }) => to === name));
      const guessed = missing
        .map((column) => guessedColumn(column, fields))
        .filter(({ origin }) => origin.from !== 'text');
      if (guessed.length > 0) change({ mapping: [...draft.mapping, ...guessed] });
      return next;
    });
  const put = (state: DestinationPage['state']) =>
    show(() => ask<DestinationPage>('POST', `${own}/state`, { state }));
  const isWhole = page !== null && DESTINATION_KINDS[page.kind].isWhole === true;
  const sendNow = () => {
    setFace('deliveries');
    return show(() => ask<DestinationPage>('POST', `${own}/send`, {}));
  };
  const stops = page?.findings.some((finding) => finding.stops) ?? false;
  const keeps = (face === 'columns' || face === 'set up') && (changed || !page);
  // Where the eye is: above what was pressed.
  const refusal = (
    <Refusal
      failure={failure}
      busy={busy}
      onTheirs={() => void act(async () => settle(await ask<DestinationPage>('GET', own)))}
      onMine={() => void keep(true)}
    />
  );

  return (
    <Page title={page ? page.name : 'Add destination'} back={{ href: `/${client}/sync`, words: 'Sync' }}>
      <View style={{ gap: 16 }}>
        {page && (
          <Head
            page={page}
            busy={busy}
            stops={stops || changed}
            onState={(state) => void put(state)}
            onSend={isWhole ? () => void sendNow() : undefined}
            onRemove={() => setRemoving(true)}
          />
        )}
        {!page && (
          <PickRow
            label="What it is"
            value={draft.kind}
            options={(Object.keys(DESTINATION_KINDS) as DestinationKindName[]).map(
              (kind) => [kind, DESTINATION_KINDS[kind].words] as const,
            )}
            onChange={(kind) => write(({ name }) => ({ ...emptyDraft(kind), name }))}
          />
        )}
        {page && (
          <PickRow
            label="Show"
            value={face}
            options={[
              ['columns', 'Columns'],
              ['set up', 'Set up'],
              ['deliveries', 'Deliveries'],
              ...(others ? [['clients', 'Other clients'] as const] : []),
            ]}
            onChange={setFace}
          />
        )}
        {!keeps && refusal}
        {face === 'set up' && (
          <SetUp draft={draft} hint={page?.hint ?? null} known={known} onChange={change} />
        )}
        {face === 'columns' && page && (
          <MappingEditor
            mapping={draft.mapping}
            fields={fields}
            findings={changed ? [] : page.findings}
            onChange={(mapping) => change({ mapping })}
            onRead={DESTINATION_KINDS[page.kind].columns ? () => void readColumns() : undefined}
            wasRead={page.columns !== null}
          />
        )}
        {face === 'clients' && page && <Copies path={own} page={page} />}
        {keeps && (
          <View>
            {refusal}
            <View style={{ flexDirection: 'row' }}>
              <ActionButton
                title={page ? 'Save changes' : 'Add destination'}
                busy={busy}
                disabled={draft.name.trim() === ''}
                onPress={() => void keep()}
              />
            </View>
          </View>
        )}
        {face === 'columns' && page && !changed && (
          <Preview
            client={client}
            path={own}
            isWhole={isWhole}
            onTried={() =>
              void mutate((key) => typeof key === 'string' && key.startsWith(`${own}/deliveries`))
            }
          />
        )}
        {face === 'deliveries' && page && (
          <Deliveries path={own} client={client} shelf={page.shelf} onReplayed={() => void mutate(own)} />
        )}
      </View>
      <Dialog title={`Remove ${page?.name ?? ''}?`} open={removing} onClose={() => setRemoving(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words>
            Its token is deleted, and deliveries that wait or have failed are dropped. Nothing changes in the
            other system.
          </Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={`Remove ${page?.name ?? ''}`}
              onPress={() => {
                setRemoving(false);
                void act(() =>
                  leaving(async () => {
                    await ask('DELETE', own);
                    router.replace(`/${client}/sync`);
                  }),
                );
              }}
            />
            <QuietButton title="Cancel" onPress={() => setRemoving(false)} />
          </View>
        </View>
      </Dialog>
    </Page>
  );
}

function Head({
  page,
  busy,
  stops,
  onState,
  onSend,
  onRemove,
}: {
  page: DestinationPage;
  busy: boolean;
  /** Whether it cannot be switched on as it stands. */
  stops: boolean;
  onState: (state: DestinationPage['state']) => void;
  /** Sends the whole file; absent where people go one by one. */
  onSend?: () => void;
  onRemove: () => void;
}) {
  const { tone, words } = destinationState(page);
  return (
    <View style={{ gap: 8 }}>
      <Words kind="small">{whereWords(page)}</Words>
      <StateLine tone={tone} kind="text" role="status">
        {words}
      </StateLine>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {page.state !== 'on' && (
          <ActionButton title="Switch on" disabled={busy || stops} onPress={() => onState('on')} />
        )}
        {page.state === 'on' && page.failingSince && (
          <QuietButton outlined title="Try again now" disabled={busy} onPress={() => onState('on')} />
        )}
        {onSend && page.state === 'on' && (
          <QuietButton outlined title="Send now" disabled={busy || stops} onPress={onSend} />
        )}
        {page.state === 'on' && (
          <QuietButton outlined title="Pause" disabled={busy} onPress={() => onState('paused')} />
        )}
        {page.state !== 'off' && (
          <QuietButton outlined title="Switch off" disabled={busy} onPress={() => onState('off')} />
        )}
        <QuietButton title="Remove" tone="red" label={`Remove ${page.name}`} onPress={onRemove} />
      </View>
    </View>
  );
}
