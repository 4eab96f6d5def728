import { router } from 'expo-router';
import { View } from 'react-native';
import { Dialog } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { EditPerson } from '@dart-loop/contract';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { Refused } from '../../ui/parts';

/** Somebody who is written down by hand. */
export function NewPerson({ client, open, onClose }: { client: string; open: boolean; onClose: () => void }) {
  const form = useSentForm(EditPerson, { firstName: '', lastName: '' }, async (person) => {
    const { id } = await ask<{ id: string }>('POST', `/clients/${client}/people`, person);
    onClose();
    router.push(`/${client}/people/${id}`);
  });
  const [first, last] = form.form.watch(['firstName', 'lastName']);
  return (
    <Dialog
      title="Add person"
      open={open}
      onClose={onClose}
      foot={
        <ActionButton
          title="Add person"
          busy={form.busy}
          disabled={!first?.trim() && !last?.trim()}
          onPress={form.submit}
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={form.failure?.message} />
        <FormField of={form} name="firstName" label="First name" autoFocus />
        <FormField of={form} name="lastName" label="Last name" />
      </View>
    </Dialog>
  );
}
