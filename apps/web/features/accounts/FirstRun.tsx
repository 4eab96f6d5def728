import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import { FirstRun as FirstRunSchema } from '@dart-loop/contract/accounts';
import { Page } from '../../ui/Page';
import { Refused, Wordmark } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';

/** The first page of a new installation: whoever reads the log makes the agency and becomes its owner. */
export function FirstRun() {
  const { mutate } = useSWRConfig();
  const form = useSentForm(
    FirstRunSchema,
    { code: '', agency: '', name: '', email: '', password: '' },
    async (values) => {
      await ask('POST', '/first-run', values);
      await mutate('/session');
    },
  );
  return (
    <Page
      title="Set up Dart Loop"
      about="Nobody has an account here yet. You become the first owner; everybody else is invited by you."
      width="form"
      above={
        <View style={{ paddingVertical: 24 }}>
          <Wordmark />
        </View>
      }
    >
      <View style={{ gap: 16, marginTop: 8 }}>
        <Refused problem={form.failure?.message} />
        <FormField
          of={form}
          name="code"
          label="One-time code"
          hint="It stands in the server’s log, and where ./dartloop start was typed."
          placeholder="ABCD-EFGH"
          autoCapitalize="characters"
          autoComplete="off"
          autoFocus
        />
        <FormField of={form} name="agency" label="Name of the agency" autoComplete="organization" />
        <FormField of={form} name="name" label="Your name" autoComplete="name" />
        <FormField
          of={form}
          name="email"
          label="Your email"
          inputMode="email"
          autoCapitalize="none"
          autoComplete="email"
        />
        <FormField
          of={form}
          name="password"
          label="Password"
          hint="At least 10 characters. A few words are better than signs."
          secureTextEntry
          autoComplete="new-password"
        />
        <ActionButton title="Create agency" busy={form.busy} onPress={form.submit} />
      </View>
    </Page>
  );
}
