import { View } from 'react-native';
import useSWR from 'swr';
import type { OwnSession } from '@dart-loop/contract/accounts';
import { Failure, Refused, Waiting } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { Group } from '../../ui/rows';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** Where one is signed in; each can be ended from here. */
export function OwnSessions() {
  const { data, error, mutate } = useSWR<OwnSession[], Error>('/account/sessions');
  const { act, busy, problem } = useAct(mutate);
  return (
    <Group title="Where you are signed in">
      <Refused problem={problem} />
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      <View role="list" aria-label="Where you are signed in" style={{ gap: 8 }}>
        {data?.map(({ id, browser, address, beganAt, isThis }) => (
          <View
            key={id}
            role="listitem"
            style={{ flexDirection: 'row', alignItems: 'center', gap: 12, minHeight: 44 }}
          >
            <View style={{ flex: 1, minWidth: 0 }}>
              <Words kind="strong">
                {isThis ? `${browserWords(browser)} (this one)` : browserWords(browser)}
              </Words>
              <Words kind="small">{`from ${address || 'somewhere'}, signed in ${whenWords(beganAt)}`}</Words>
            </View>
            {!isThis && (
              <QuietButton
                title="Sign out there"
                label={`Sign out ${browserWords(browser)} from ${address}`}
                tone="red"
                disabled={busy}
                onPress={() => void act(() => ask('DELETE', `/account/sessions/${id}`))}
              />
            )}
          </View>
        ))}
      </View>
    </Group>
  );
}

/** What a browser says of itself, as far as it helps to tell it from another. */
export function browserWords(said: string): string {
  const browser =
    (
      [
        [/Edg\//, 'Edge'],
        [/OPR\//, 'Opera'],
        [/Firefox\//, 'Firefox'],
        [/Chrome\//, 'Chrome'],
        [/Safari\//, 'Safari'],
      ] as const
    ).find(([pattern]) => pattern.test(said))?.[1] ?? 'Another program';
  const system = (
    [
      [/iPhone|iPad/, 'iOS'],
      [/Android/, 'Android'],
      [/Windows/, 'Windows'],
      [/Mac OS X/, 'macOS'],
      [/Linux/, 'Linux'],
    ] as const
  ).find(([pattern]) => pattern.test(said))?.[1];
  return system ? `${browser} on ${system}` : browser;
}
