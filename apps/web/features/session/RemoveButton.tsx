import { useState } from 'react';
import { View } from 'react-native';
import { Dialog } from '../../ui/Menu';
import { Refused } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { useAct } from './useAct';

/** Takes something away that cannot be brought back: once to ask for it, once to be sure. */
export function RemoveButton({
  name,
  words,
  refused = false,
  remove,
}: {
  /** What is removed, as it is called. */
  name: string;
  /** What that means. */
  words: string;
  /** Whether it cannot be removed now; the words say why. */
  refused?: boolean;
  remove: () => Promise<unknown>;
}) {
  const [open, setOpen] = useState(false);
  const { act, busy, problem } = useAct();
  const sure = () =>
    act(async () => {
      await remove();
      setOpen(false);
    });
  return (
    <>
      <QuietButton title="Remove" label={`Remove ${name}`} tone="red" onPress={() => setOpen(true)} />
      <Dialog
        title={`Remove ${name}`}
        open={open}
        onClose={() => setOpen(false)}
        foot={
          <ActionButton title={`Remove ${name}`} busy={busy} disabled={refused} onPress={() => void sure()} />
        }
      >
        <View style={{ padding: 12, gap: 8 }}>
          <Refused problem={problem} />
          <Words>{words}</Words>
        </View>
      </Dialog>
    </>
  );
}
