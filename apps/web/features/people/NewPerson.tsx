import { router } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** Somebody who is written down by hand. Two fields, for which the form engine is not loaded. */
export function NewPerson({ client, open, onClose }: { client: string; open: boolean; onClose: () => void }) {
  const [first, setFirst] = useState('');
  const [last, setLast] = useState('');
  const { act, busy, problem } = useAct();
  const save = () =>
    act(async () => {
      const { id } = await ask<{ id: string }>('POST', `/clients/${client}/people`, {
        firstName: first,
        lastName: last,
      });
      onClose();
      router.push(`/${client}/people/${id}`);
    });
  return (
    <Dialog
      title="Add person"
      open={open}
      onClose={onClose}
      foot={
        <ActionButton
          title="Add person"
          busy={busy}
          disabled={!first.trim() && !last.trim()}
          onPress={() => void save()}
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Field label="First name" value={first} onChangeText={setFirst} autoFocus problem={problem} />
        <Field label="Last name" value={last} onChangeText={setLast} />
      </View>
    </Dialog>
  );
}
