import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { ActionButton, QuietButton } from '../../ui/press';
import { Refused } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** A line that only the test phone can write to: nothing has to be typed for it. */
export function TrialForm({
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
  const { act, busy, problem } = useAct();
  const make = () =>
    act(async () => {
      const line = await ask<LineRow>('POST', `${path}/trial`, { channel });
      await mutate(path);
      onConnected(line);
    });
  return (
    <View style={{ gap: 12 }}>
      <Words kind="small">
        {`It behaves as ${CHANNELS[channel].name} does, with its limits, but only the test phone can write to it. Loops run on it as on any other line.`}
      </Words>
      <Refused problem={problem} />
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <ActionButton
          title={busy ? 'Making it …' : 'Make the line'}
          busy={busy}
          onPress={() => void make()}
        />
        <QuietButton title="Cancel" onPress={onCancel} />
      </View>
    </View>
  );
}
