import { useState } from 'react';
import { View } from 'react-native';
import type { NewInletAddress } from '@dart-loop/contract';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { ShownOnce } from '../../ui/ShownOnce';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

export const addressOf = (hook: string) => `The address of ${hook}`;

/** Gives an incoming webhook another address, such as when the old one was lost or is known to too many. */
export function NewAddress({ path, hook }: { path: string; hook: string }) {
  const [asking, setAsking] = useState(false);
  const [address, setAddress] = useState<string | null>(null);
  const { act, busy, problem } = useAct();
  const make = () =>
    act(async () => {
      setAddress((await ask<NewInletAddress>('POST', `${path}/address`, {})).address);
      setAsking(false);
    });
  return (
    <View style={{ gap: 8, alignItems: 'flex-start' }}>
      {address && <ShownOnce title={addressOf(hook)} secret={address} />}
      <QuietButton outlined title="Make a new address" onPress={() => setAsking(true)} />
      <Dialog title={`A new address for ${hook}?`} open={asking} onClose={() => setAsking(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words>The address it has now stops working at once.</Words>
          <Refused problem={problem} />
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton title="Make a new address" busy={busy} onPress={() => void make()} />
            <QuietButton title="Cancel" onPress={() => setAsking(false)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
}
