import { router } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { ask, type ApiError } from '../session/api';

/** Somebody who is written down by hand. */
export function NewPerson({ client, open, onClose }: { client: string; open: boolean; onClose: () => void }) {
  const [first, setFirst] = useState('');
  const [last, setLast] = useState('');
  const [error, setError] = useState<ApiError | null>(null);
  const save = async () => {
    try {
      const { id } = await ask<{ id: string }>('POST', `/clients/${client}/people`, {
        firstName: first,
        lastName: last,
      });
      onClose();
      router.push(`/${client}/people/${id}`);
    } catch (problem) {
      setError(problem as ApiError);
    }
  };
  return (
    <Dialog
      title="Add person"
      open={open}
      onClose={onClose}
      foot={
        <ActionButton
          title="Add person"
          disabled={!first.trim() && !last.trim()}
          onPress={() => void save()}
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Field label="First name" value={first} onChangeText={setFirst} autoFocus problem={error?.message} />
        <Field label="Last name" value={last} onChangeText={setLast} />
      </View>
    </Dialog>
  );
}
