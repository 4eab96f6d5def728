import { useState } from 'react';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton } from '../../ui/press';
import { Refused } from '../../ui/parts';
import { PickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { CONNECTING } from './connecting';

/**
 * What a line needs, each with where it is found; for a renewal its secrets alone, of which those left empty
 * stay as they are.
 */
export function ConnectForm({
  channel,
  path,
  renews,
  onCancel,
  onConnected,
}: {
  channel: ChannelKind;
  path: string;
  renews?: LineRow;
  onCancel: () => void;
  onConnected: (line: LineRow) => void;
}) {
  const { mutate } = useSWRConfig();
  const { before } = CONNECTING[channel];
  const fields = CONNECTING[channel].fields.filter(
    ({ name, options }) => !renews || options || !(name in renews.known),
  );
  const [typed, setTyped] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      fields.flatMap(({ name, options }) => (options ? [[name, renews?.known[name] ?? options[0]![0]]] : [])),
    ),
  );
  const { act, busy, problem: refused, of, forget } = useAct();
  const empty = ({ name }: { name: string }) => (typed[name] ?? '').trim() === '';
  const unfinished =
    (renews
      ? fields.every((field) =>
          field.options ? typed[field.name] === renews.known[field.name] : empty(field),
        )
      : fields.some(empty)) || fields.some(({ name, problem }) => problem?.(typed[name] ?? ''));
  const connect = () =>
    act(async () => {
      const line = await ask<LineRow>('POST', path, {
        channel,
        ...(renews && { renews: renews.id }),
        ...Object.fromEntries(CONNECTING[channel].fields.map(({ name }) => [name, typed[name] ?? ''])),
      });
      await mutate(path);
      onConnected(line);
    });
  const general = fields.some(({ name }) => of(name)) ? null : refused;
  return (
    <View style={{ gap: 12 }}>
      {renews ? (
        <Words kind="small">
          Leave a field empty to keep what it has. Messages that wait are sent once the line works again.
        </Words>
      ) : (
        before && <Words kind="small">{before}</Words>
      )}
      <Refused problem={general} />
      {fields.map(({ name, label, hint, placeholder, secret, inputMode, options, problem }, index) => (
        <View key={name} style={{ flexDirection: 'row', gap: 10 }}>
          {fields.length > 1 && (
            <Words aria-hidden kind="code" style={{ width: 14, textAlign: 'right' }}>
              {index + 1}
            </Words>
          )}
          <View style={{ flex: 1, minWidth: 0 }}>
            {options ? (
              <PickRow
                label={label}
                value={typed[name] ?? ''}
                options={options}
                onChange={(value) => setTyped({ ...typed, [name]: value })}
              />
            ) : (
              <Field
                label={label}
                placeholder={renews?.hints[name] ? `now …${renews.hints[name]}` : placeholder}
                value={typed[name] ?? ''}
                onChangeText={(words) => {
                  setTyped({ ...typed, [name]: words });
                  forget();
                }}
                autoCapitalize="none"
                autoCorrect={false}
                secureTextEntry={secret}
                inputMode={inputMode}
                problem={problem?.(typed[name] ?? '') ?? of(name)}
                hint={hint}
              />
            )}
          </View>
        </View>
      ))}
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <ActionButton
          title={busy ? 'Asking the channel …' : renews ? 'Renew and test' : 'Connect and test'}
          busy={busy}
          onPress={() => void connect()}
          disabled={unfinished}
        />
        <QuietButton title="Cancel" onPress={onCancel} />
      </View>
    </View>
  );
}
