import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import { SCOPES, type KeyRow, type MadeKey, type Scope } from '@dart-loop/contract/api';
import { Dialog } from '../../ui/Menu';
import { Field } from '../../ui/Field';
import { Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { TickRow } from '../../ui/rows';
import { ShownOnce } from '../../ui/ShownOnce';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

const MEANS: Record<Scope, string> = {
  'read people': 'Read people, fields and lines',
  'write people': 'Add and change people, with opt-ins that name their source',
  'start loops': 'Start a live loop for a person',
  'read events': 'Read what happens to people, from now on, for 30 days',
};

/** A client's keys: what each may do and when it was used last; made, shown once, withdrawn. */
export function Keys({
  client,
  canChange,
  onMade,
}: {
  client: string;
  canChange: boolean;
  onMade: (token: string) => void;
}) {
  const path = `/clients/${client}/keys`;
  const { data, error, mutate } = useSWR<KeyRow[], Error>(path);
  const [made, setMade] = useState<{ name: string; token: string } | null>(null);
  const [draft, setDraft] = useState<{ name: string; scopes: Scope[] } | null>(null);
  const [leaving, setLeaving] = useState<KeyRow | null>(null);
  const { act, busy, problem } = useAct(mutate);
  const make = ({ name, scopes }: { name: string; scopes: Scope[] }) =>
    act(async () => {
      const { token } = await ask<MadeKey>('POST', path, { name: name.trim(), scopes });
      setMade({ name: name.trim(), token });
      setDraft(null);
      onMade(token);
    });
  return (
    <View style={{ gap: 10 }}>
      <Words kind="heading">Keys</Words>
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && !draft && (
        <Words kind="small">
          No key yet. Add one for each of the client’s systems, so that each can be withdrawn alone.
        </Words>
      )}
      {made && (
        <ShownOnce
          title={`The key of ${made.name}`}
          secret={made.token}
          more="It is filled in below, to try."
        />
      )}
      <View role="list" aria-label="Keys" style={{ gap: 8 }}>
        {data?.map((row) => (
          <View
            key={row.id}
            role="listitem"
            style={{ flexDirection: 'row', alignItems: 'center', justifyContent: 'space-between', gap: 12 }}
          >
            <View style={{ flex: 1, minWidth: 0 }}>
              <Words kind="strong">{row.name}</Words>
              <Words kind="small">{`…${row.hint}, may ${row.scopes.join(', ')}; ${row.lastUsedAt ? `used ${whenWords(row.lastUsedAt)}` : 'never used yet'}`}</Words>
            </View>
            {canChange && (
              <QuietButton
                title="Withdraw"
                label={`Withdraw ${row.name}`}
                tone="red"
                onPress={() => setLeaving(row)}
              />
            )}
          </View>
        ))}
      </View>
      {canChange && !draft && (
        <View style={{ alignItems: 'flex-start' }}>
          <QuietButton
            outlined
            title="Add key"
            onPress={() => setDraft({ name: '', scopes: ['read people', 'write people'] })}
          />
        </View>
      )}
      {draft && (
        <View role="group" aria-label="Add key" style={{ gap: 10 }}>
          <Field
            label="Name"
            placeholder="The till at Harwick"
            autoFocus
            value={draft.name}
            onChangeText={(name) => setDraft({ ...draft, name })}
          />
          <View role="group" aria-label="Permissions">
            <Words kind="smallStrong">Permissions</Words>
            {SCOPES.map((scope) => (
              <TickRow
                key={scope}
                label={MEANS[scope]}
                on={draft.scopes.includes(scope)}
                onChange={(on) =>
                  setDraft({
                    ...draft,
                    scopes: SCOPES.filter((each) => (each === scope ? on : draft.scopes.includes(each))),
                  })
                }
              />
            ))}
          </View>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title="Create key"
              busy={busy}
              disabled={draft.name.trim() === '' || draft.scopes.length === 0}
              onPress={() => void make(draft)}
            />
            <QuietButton title="Cancel" onPress={() => setDraft(null)} />
          </View>
        </View>
      )}
      <Dialog
        title={`Withdraw ${leaving?.name ?? ''}?`}
        open={leaving !== null}
        onClose={() => setLeaving(null)}
      >
        <View style={{ padding: 12, gap: 12 }}>
          <Words>Calls with this key are refused from now on. What it has done is kept.</Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={`Withdraw ${leaving?.name ?? ''}`}
              onPress={() => {
                const { id } = leaving!;
                setLeaving(null);
                setMade(null);
                void act(() => ask('DELETE', `${path}/${id}`));
              }}
            />
            <QuietButton title="Cancel" onPress={() => setLeaving(null)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
}
