import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import { ChangeName, ChangePassword } from '@dart-loop/contract/accounts';
import { Refused } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';

/** What one is called, here and in the audit. */
export function OwnName({ name }: { name: string }) {
  const { mutate } = useSWRConfig();
  const form = useSentForm(ChangeName, { name }, async (values) => {
    await ask('PUT', '/account/name', values);
    await mutate('/session');
  });
  const typed = form.form.watch('name');
  return (
    <Group title="Your name">
      <Refused problem={form.failure?.message} />
      <FormField of={form} name="name" label="Name" autoComplete="name" />
      <View style={{ flexDirection: 'row' }}>
        <QuietButton
          outlined
          title="Save name"
          disabled={form.busy || typed.trim() === name}
          onPress={form.submit}
        />
      </View>
    </Group>
  );
}

/** Another password, for whoever knows the one that counts now. */
export function OwnPassword() {
  const { mutate } = useSWRConfig();
  const [done, setDone] = useState(false);
  const form = useSentForm(ChangePassword, { now: '', next: '' }, async (values) => {
    setDone(false);
    await ask('PUT', '/account/password', values);
    form.form.reset();
    setDone(true);
    await mutate('/account/sessions');
  });
  const typed = form.form.watch();
  return (
    <Group title="Password">
      <Refused problem={form.failure?.message} />
      <FormField
        of={form}
        name="now"
        label="Current password"
        secureTextEntry
        autoComplete="current-password"
      />
      <FormField
        of={form}
        name="next"
        label="New password"
        hint="At least 10 characters. A few words are better than signs."
        secureTextEntry
        autoComplete="new-password"
      />
      <View style={{ flexDirection: 'row' }}>
        <QuietButton
          outlined
          title="Change password"
          disabled={form.busy || typed.now === '' || typed.next === ''}
          onPress={form.submit}
        />
      </View>
      {done && (
        <Words kind="small" role="status">
          The password is changed. You are signed out everywhere else.
        </Words>
      )}
    </Group>
  );
}
