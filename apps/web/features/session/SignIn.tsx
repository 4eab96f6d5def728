import { Suspense, lazy, useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { SignInChoices } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Refused, Waiting, Wordmark } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask, type ApiError } from './api';
import { useAct } from './useAct';

/** Not loaded by whoever signs in. */
const FirstRun = lazy(() => import('../needsForms').then((parts) => ({ default: parts.FirstRun })));

export function SignIn() {
  const { data } = useSWR<SignInChoices>('/sign-in');
  const { mutate } = useSWRConfig();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const [needsCode, setNeedsCode] = useState(false);
  const [sent, setSent] = useState(false);
  const { act, busy, problem, of } = useAct();
  const begin = (as: { email: string; password: string }) =>
    act(async () => {
      try {
        await ask('POST', '/session', {
          email: as.email,
          password: as.password,
          ...(needsCode && { code }),
        });
      } catch (refused) {
        if ((refused as ApiError).body?.needsCode !== true || needsCode) throw refused;
        // That a code is needed is no mistake; that one does not count is.
        return setNeedsCode(true);
      }
      // Whose pages these were before is forgotten; then who is signed in now is asked.
      await mutate((key) => key !== '/session' && key !== '/sign-in', undefined, { revalidate: false });
      await mutate('/session');
    });
  const forgot = () =>
    act(async () => {
      await ask('POST', '/sign-in/password', { email });
      setSent(true);
    });
  if (data?.firstRun)
    return (
      <Suspense fallback={<Waiting words="Opening Dart Loop" />}>
        <FirstRun />
      </Suspense>
    );
  return (
    <Page
      title="Sign in"
      width="form"
      above={
        <View style={{ paddingVertical: 24 }}>
          <Wordmark />
        </View>
      }
    >
      <View style={{ gap: 16, marginTop: 16 }}>
        <Refused problem={problem} />
        <Field
          label="Email"
          value={email}
          onChangeText={setEmail}
          inputMode="email"
          autoCapitalize="none"
          autoComplete="email"
          problem={of('email')}
        />
        <Field
          label="Password"
          value={password}
          onChangeText={setPassword}
          secureTextEntry
          autoComplete="current-password"
          onSubmitEditing={() => void begin({ email, password })}
          problem={of('password')}
        />
        {needsCode && (
          <Field
            label="Code"
            hint="Of your authenticator, or one of your recovery codes."
            value={code}
            onChangeText={setCode}
            autoComplete="one-time-code"
            autoCapitalize="none"
            autoFocus
            onSubmitEditing={() => void begin({ email, password })}
          />
        )}
        <ActionButton title="Sign in" busy={busy} onPress={() => void begin({ email, password })} />
        <View style={{ flexDirection: 'row' }}>
          <QuietButton
            title="Forgot your password?"
            tone="teal"
            disabled={busy}
            onPress={() => void forgot()}
          />
        </View>
        {sent && (
          <Words kind="small" role="status">
            {`If ${email} has an account, a link for a new password is on its way by mail.`}
          </Words>
        )}
        {data && data.demo.length > 0 && (
          <View style={{ gap: 4, marginTop: 16 }}>
            <Words kind="heading">Or look around the demo as</Words>
            {data.demo.map((choice) => (
              <View
                key={choice.role}
                style={{ flexDirection: 'row', alignItems: 'center', gap: 12, flexWrap: 'wrap' }}
              >
                <QuietButton
                  outlined
                  title={`${choice.name}, ${choice.role}`}
                  disabled={busy}
                  onPress={() => void begin(choice)}
                />
                <Words kind="small">{choice.words}</Words>
              </View>
            ))}
          </View>
        )}
      </View>
    </Page>
  );
}
