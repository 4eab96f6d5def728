import { useState } from 'react';
import { View } from 'react-native';
import type { LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { Choice } from '../../ui/Choice';
import { ChannelMark, Sheet } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { CONNECTING } from './connecting';
import { ConnectForm } from './ConnectForm';

/** Connects a line of a channel that is chosen first. */
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
        <Sheet style={{ padding: 16 }}>
          <ConnectForm
            key={channel}
            channel={channel}
            path={path}
            onCancel={() => setChannel(null)}
            onConnected={(line) => {
              setChannel(null);
              onConnected(line);
            }}
          />
        </Sheet>
      )}
    </View>
  );
}
