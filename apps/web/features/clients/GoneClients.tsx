import { useState } from 'react';
import { View } from 'react-native';
import type { ArchivedClient, ClientReceipt, ClientsPage } from '@dart-loop/contract/clients';
import { counted } from '@dart-loop/core/language/counted';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** Clients that the agency works for no more: archived, which can come back, and deleted, which cannot. */
export function GoneClients({ page, changed }: { page: ClientsPage; changed: () => Promise<unknown> }) {
  const { act, busy, problem } = useAct(changed);
  const [deleting, setDeleting] = useState<ArchivedClient | null>(null);
  return (
    <>
      <Refused problem={problem} />
      {page.archived.length > 0 && (
        <View style={{ marginTop: 24, gap: 8 }}>
          <Words kind="heading">Archived</Words>
          <View role="list" aria-label="Archived">
            {page.archived.map((client) => (
              <View
                key={client.id}
                role="listitem"
                style={{ flexDirection: 'row', alignItems: 'center', gap: 12, minHeight: 44 }}
              >
                <View style={{ flex: 1, minWidth: 0 }}>
                  <Words kind="strong">{client.name}</Words>
                  <Words kind="small">{`archived ${whenWords(client.archivedAt)}`}</Words>
                </View>
                <QuietButton
                  title="Restore"
                  label={`Restore ${client.name}`}
                  disabled={busy}
                  onPress={() => void act(() => ask('POST', `/archived-clients/${client.id}/restore`, {}))}
                />
                <QuietButton
                  title="Delete"
                  label={`Delete ${client.name}`}
                  tone="red"
                  disabled={busy}
                  onPress={() => setDeleting(client)}
                />
              </View>
            ))}
          </View>
        </View>
      )}
      {page.deleted.length > 0 && (
        <View style={{ marginTop: 24, gap: 8 }}>
          <Words kind="heading">Deleted</Words>
          <View role="list" aria-label="Deleted">
            {page.deleted.map((receipt) => (
              <View key={`${receipt.name} ${receipt.askedAt}`} role="listitem" style={{ paddingVertical: 6 }}>
                <Words kind="strong">{receipt.name}</Words>
                <Words kind="small">{receiptWords(receipt)}</Words>
              </View>
            ))}
          </View>
        </View>
      )}
      {deleting && (
        <DeleteDialog key={deleting.id} client={deleting} close={() => setDeleting(null)} changed={changed} />
      )}
    </>
  );
}

/** What is left of a deleted client, in a sentence. */
export function receiptWords({ askedAt, askedBy, doneAt, counts }: ClientReceipt): string {
  const asked = `Deleted ${whenWords(askedAt)} by ${askedBy ?? 'somebody who has left'}`;
  if (doneAt === null) return `${asked}. Its data is being deleted.`;
  const messages = (counts.message ?? 0) + (counts.event ?? 0);
  return `${asked}: ${counted(counts.person ?? 0, 'person', 'people')}, ${counted(messages, 'message')} and everything else.`;
}

/** The name is typed, so that it is the one that is meant. */
function DeleteDialog({
  client: { id, name },
  close,
  changed,
}: {
  client: ArchivedClient;
  close: () => void;
  changed: () => Promise<unknown>;
}) {
  const [typed, setTyped] = useState('');
  const { act, busy, problem } = useAct();
  const remove = () =>
    act(async () => {
      await ask('POST', `/archived-clients/${id}/delete`, { name: typed });
      close();
      await changed();
    });
  return (
    <Dialog title={`Delete ${name}?`} open onClose={close}>
      <View style={{ padding: 12, gap: 12 }}>
        <Words>
          All its people, conversations, loops and results are deleted, for ever. A receipt with its name and
          figures stays. As long as it is archived, it can come back.
        </Words>
        <Field label="Type its name" value={typed} onChangeText={setTyped} autoCapitalize="none" autoFocus />
        <Refused problem={problem} />
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
          <ActionButton
            title={`Delete ${name} for ever`}
            busy={busy}
            disabled={typed.trim() !== name}
            onPress={() => void remove()}
          />
          <QuietButton title="Cancel" onPress={close} />
        </View>
      </View>
    </Dialog>
  );
}
