import { router, useLocalSearchParams } from 'expo-router';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import { FollowLink, PersonName, type LinkView } from '@dart-loop/contract/accounts';
import { Page } from '../../ui/Page';
import { Empty, Refused, Waiting, Wordmark } from '../../ui/parts';
import { ActionButton, TextLink } from '../../ui/press';
import { ask } from '../session/api';
import { FormField, useSentForm } from '../session/useSentForm';
import { ROLE_WORDS } from './roleWords';

/** Where a link leads that was handed to somebody: to come in, or to choose a new password. */
export function Welcome() {
  const { token } = useLocalSearchParams<{ token: string }>();
  const { data, error } = useSWR<LinkView, Error>(`/welcome/${token}`, { revalidateOnFocus: false });
  return (
    <Page
      title={data?.kind === 'password' ? 'Choose a new password' : 'Welcome to Dart Loop'}
      about={data && aboutOf(data)}
      width="form"
      above={
        <View style={{ paddingVertical: 24 }}>
          <Wordmark />
        </View>
      }
    >
      {!data && !error && <Waiting />}
      {error && (
        <Empty
          title="This link does not work"
          words={error.message}
          action={<TextLink href="/">Open the sign-in page</TextLink>}
        />
      )}
      {data && <Choose token={token} link={data} />}
    </Page>
  );
}

function aboutOf({ kind, agency, email, role }: LinkView): string {
  if (kind === 'password') return `${email} at ${agency}`;
  return `${agency} invites ${email}. You will be ${ROLE_WORDS[role!].article}: ${ROLE_WORDS[role!].may}.`;
}

const Invited = FollowLink.extend({ name: PersonName });

function Choose({ token, link }: { token: string; link: LinkView }) {
  const { mutate } = useSWRConfig();
  const isNew = link.kind === 'invitation';
  const form = useSentForm(
    isNew ? Invited : FollowLink,
    isNew ? { name: '', password: '' } : { password: '' },
    async (values) => {
      await ask('POST', `/welcome/${token}`, values);
      router.replace('/');
      await mutate(() => true, undefined, { revalidate: false });
      await mutate('/session');
    },
  );
  return (
    <View style={{ gap: 16, marginTop: 8 }}>
      <Refused problem={form.failure?.message} />
      {isNew && <FormField of={form} name="name" label="Your name" autoComplete="name" autoFocus />}
      <FormField
        of={form}
        name="password"
        label={isNew ? 'Password' : 'New password'}
        hint="At least 10 characters. A few words are better than signs."
        secureTextEntry
        autoComplete="new-password"
        autoFocus={!isNew}
      />
      <ActionButton
        title={isNew ? 'Create account' : 'Save password'}
        busy={form.busy}
        onPress={form.submit}
      />
    </View>
  );
}
