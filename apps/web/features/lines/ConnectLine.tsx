import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton } from '../../ui/press';
import { ChannelMark, Notice, Sheet } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask, type ApiError } from '../session/api';
import { CONNECTING } from './connecting';

/** Connects a line, or renews one that stands on the same account. */
export function ConnectLine({ path, onConnected }: { path: string; onConnected: (line: LineRow) => void }) {
  const [channel, setChannel] = useState<ChannelKind | null>(null);
  return (
    <View style={{ marginTop: 24, gap: 8 }}>
      <Words kind="heading">Connect a line</Words>
      <View role="radiogroup" aria-label="Channel" style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}>
        {(Object.keys(CONNECTING) as ChannelKind[]).map((each) => (
          <Choice
            key={each}
            words={CONNECTING[each].button}
            chosen={each === channel}
            onChoose={() => setChannel(each)}
            mark={<ChannelMark channel={each} />}
          />
        ))}
      </View>
      {channel && (
        <Form
          key={channel}
          channel={channel}
          path={path}
          onCancel={() => setChannel(null)}
          onConnected={(line) => {
            setChannel(null);
            onConnected(line);
          }}
        />
      )}
    </View>
  );
}

function Form({
  channel,
  path,
  onCancel,
  onConnected,
}: {
  channel: ChannelKind;
  path: string;
  onCancel: () => void;
  onConnected: (line: LineRow) => void;
}) {
  const { mutate } = useSWRConfig();
  const { before, fields } = CONNECTING[channel];
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ApiError | null>(null);
  const unfinished = fields.some(({ name, problem }) => (typed[name] ?? '').trim() === '' || problem?.(typed[name]!));
  const connect = async () => {
    setBusy(true);
    setError(null);
    try {
      const line = await ask<LineRow>('POST', path, {
        channel,
        ...Object.fromEntries(fields.map(({ name }) => [name, typed[name] ?? ''])),
      });
      await mutate(path);
      onConnected(line);
    } catch (problem) {
      setError(problem as ApiError);
      setBusy(false);
    }
  };
  const general = error && !fields.some(({ name }) => error.of(name)) ? error.message : null;
  return (
    <Sheet style={{ padding: 16, gap: 12 }}>
      {before && <Words kind="small">{before}</Words>}
      {general && <Notice tone="failing">{general}</Notice>}
      {fields.map(({ name, label, hint, placeholder, secret, inputMode, problem }, index) => (
        <View key={name} style={{ flexDirection: 'row', gap: 10 }}>
          {fields.length > 1 && (
            <Words aria-hidden kind="code" style={{ width: 14, textAlign: 'right' }}>
              {index + 1}
            </Words>
          )}
          <Field
            label={label}
            placeholder={placeholder}
            value={typed[name] ?? ''}
            onChangeText={(words) => {
              setTyped({ ...typed, [name]: words });
              setError(null);
            }}
            autoCapitalize="none"
            autoCorrect={false}
            secureTextEntry={secret}
            inputMode={inputMode}
            problem={problem?.(typed[name] ?? '') ?? error?.of(name)}
            hint={hint}
          />
        </View>
      ))}
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <ActionButton
          title={busy ? 'Asking the channel …' : 'Connect and test'}
          busy={busy}
          onPress={() => void connect()}
          disabled={unfinished}
        />
        <QuietButton title="Cancel" onPress={onCancel} />
      </View>
    </Sheet>
  );
}
