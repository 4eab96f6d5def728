import { router } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useLeaving } from '../session/useSession';

/** A client that the agency works for no more is put away, with all that belongs to it. */
export function ArchiveClient({ client, name }: { client: string; name: string }) {
  const { mutate } = useSWRConfig();
  const [asking, setAsking] = useState(false);
  const { act, busy, problem } = useAct();
  const leaving = useLeaving(`/clients/${client}`);
  const archive = () =>
    act(() =>
      leaving(async () => {
        await ask('POST', `/clients/${client}/archive`, {});
        router.replace('/clients');
        await mutate('/session');
      }),
    );
  return (
    <Group title="Archive">
      <Words kind="small">
        An archived client is seen and called by nobody; everything is kept, and it can be restored.
      </Words>
      <View style={{ flexDirection: 'row' }}>
        <QuietButton outlined tone="red" title="Archive client" onPress={() => setAsking(true)} />
      </View>
      <Dialog title={`Archive ${name}?`} open={asking} onClose={() => setAsking(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words>
            Its keys and webhooks are refused, and its destinations are turned off. Its lines have to be
            disconnected first.
          </Words>
          <Refused problem={problem} />
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            <ActionButton title={`Archive ${name}`} busy={busy} onPress={() => void archive()} />
            <QuietButton title="Cancel" onPress={() => setAsking(false)} />
          </View>
        </View>
      </Dialog>
    </Group>
  );
}
