import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton } from '../../ui/press';
import { Notice, Sheet } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask, type ApiError } from '../session/api';

const TOKEN = /^\d{6,12}:[A-Za-z0-9_-]{35}$/;

/** What stands in the way of a token while it is typed; null when it has the right shape or is empty. */
export function tokenProblem(typed: string): string | null {
  const token = typed.trim();
  if (token === '' || TOKEN.test(token)) return null;
  if (!/^\d+:?/.test(token)) return 'A token begins with digits, such as 7001234567:AAE…';
  if (!token.includes(':')) return 'After the digits comes a colon, then 35 characters.';
  const rest = token.slice(token.indexOf(':') + 1);
  if (/[^A-Za-z0-9_-]/.test(rest)) return 'After the colon only letters, digits, hyphens and underscores are allowed.';
  return `After the colon stand 35 characters; there ${rest.length === 1 ? 'is 1' : `are ${rest.length}`}.`;
}

/** Connects a line, or renews one that stands on the same account. */
export function ConnectLine({ path, onConnected }: { path: string; onConnected: (line: LineRow) => void }) {
  const { mutate } = useSWRConfig();
  const [channel, setChannel] = useState<'telegram' | 'sms' | null>(null);
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ApiError | null>(null);
  const type = (name: string) => (words: string) => setTyped({ ...typed, [name]: words });
  const connect = async () => {
    setBusy(true);
    setError(null);
    try {
      const line = await ask<LineRow>('POST', path, {
        channel,
        ...(channel === 'telegram'
          ? { token: typed.token ?? '' }
          : { number: typed.number ?? '', key: typed.key ?? '', signing: typed.signing ?? '' }),
      });
      setChannel(null);
      setTyped({});
      await mutate(path);
      onConnected(line);
    } catch (problem) {
      setError(problem as ApiError);
    } finally {
      setBusy(false);
    }
  };
  const general = error && !(['token', 'number', 'key', 'signing'] as const).some((field) => error.of(field)) ? error.message : null;
  return (
    <View style={{ marginTop: 24, gap: 8 }}>
      <Words kind="heading">Connect a line</Words>
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <QuietButton outlined title="Telegram bot" onPress={() => (setError(null), setChannel('telegram'))} />
        <QuietButton outlined title="SMS number" onPress={() => (setError(null), setChannel('sms'))} />
      </View>
      {channel && (
        <Sheet style={{ padding: 16, gap: 12 }}>
          {general && <Notice tone="failing">{general}</Notice>}
          {channel === 'telegram' ? (
            <Field
              label="Bot token"
              placeholder="7001234567:AAE…"
              value={typed.token ?? ''}
              onChangeText={type('token')}
              autoCapitalize="none"
              autoCorrect={false}
              problem={tokenProblem(typed.token ?? '') ?? error?.of('token')}
              hint="Telegram’s BotFather gives it when the bot is made. Pasting a newer token of a connected bot renews it."
            />
          ) : (
            <>
              <Field
                label="Number"
                placeholder="+44 7700 900123"
                value={typed.number ?? ''}
                onChangeText={type('number')}
                inputMode="tel"
                problem={error?.of('number')}
              />
              <Field
                label="Gateway key"
                value={typed.key ?? ''}
                onChangeText={type('key')}
                autoCapitalize="none"
                secureTextEntry
                problem={error?.of('key')}
                hint="Allows sending. The gateway shows it on the number’s page."
              />
              <Field
                label="Signing secret"
                value={typed.signing ?? ''}
                onChangeText={type('signing')}
                autoCapitalize="none"
                secureTextEntry
                problem={error?.of('signing')}
                hint="Proves that incoming messages are the gateway’s."
              />
            </>
          )}
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={busy ? 'Asking the channel …' : 'Connect and test'}
              busy={busy}
              onPress={() => void connect()}
              disabled={channel === 'telegram' && !TOKEN.test((typed.token ?? '').trim())}
            />
            <QuietButton title="Cancel" onPress={() => setChannel(null)} />
          </View>
        </Sheet>
      )}
    </View>
  );
}
