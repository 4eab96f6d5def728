import { useState } from 'react';
import { View } from 'react-native';
import { Field } from '../../ui/Field';
import { ActionButton } from '../../ui/press';
import { Sheet } from '../../ui/parts';
import { TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import type { Act } from './useHandset';

/** A lead form of an ad, filled in as somebody would: with a number, or without, readable or not. */
export function LeadForm({ adId, act }: { adId: string; act: Act }) {
  const [form, setForm] = useState('');
  const [name, setName] = useState('');
  const [phone, setPhone] = useState('');
  const [email, setEmail] = useState('');
  const [hidden, setHidden] = useState(false);
  const [sent, setSent] = useState(false);
  const submit = async () => {
    const answers = Object.entries({ full_name: name, phone_number: phone, email }).filter(
      ([, said]) => said.trim() !== '',
    );
    setSent(
      await act({
        do: 'lead form',
        adId,
        form: form.trim(),
        answers: Object.fromEntries(answers),
        readable: !hidden,
      }),
    );
  };
  return (
    <Sheet style={{ padding: 12, gap: 8 }}>
      <Words kind="code">lead form of an ad</Words>
      <Field
        label="Id of the form"
        hint="The one that a cue names."
        inputMode="numeric"
        value={form}
        onChangeText={setForm}
        problem={form === '' || /^\d{5,20}$/.test(form.trim()) ? null : 'It is 5 to 20 digits.'}
      />
      <Field label="Full name" value={name} onChangeText={setName} />
      <Field
        label="Phone number"
        hint="Without one nobody can be written to."
        inputMode="tel"
        value={phone}
        onChangeText={setPhone}
      />
      <Field label="Email" inputMode="email" autoCapitalize="none" value={email} onChangeText={setEmail} />
      <TickRow
        label="The platform does not let the line read it"
        hint="As when the app lacks the permission for lead forms"
        on={hidden}
        onChange={setHidden}
      />
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
        <ActionButton
          title="Submit the form"
          disabled={!/^\d{5,20}$/.test(form.trim())}
          onPress={() => void submit()}
        />
        {sent && (
          <Words kind="small" role="status">
            Submitted. A loop that starts on it writes to the number.
          </Words>
        )}
      </View>
    </Sheet>
  );
}
