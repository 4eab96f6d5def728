import { useState } from 'react';
import { View } from 'react-native';
import type { LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { Choice } from '../../ui/Choice';
import { ChannelMark, Sheet } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { CONNECTING } from './connecting';
import { PickRow } from '../../ui/rows';
import { useSession } from '../session/useSession';
import { ConnectForm } from './ConnectForm';
import { TrialForm } from './TrialForm';

/** Connects a line of a channel that is chosen first. */
export function ConnectLine({ path, onConnected }: { path: string; onConnected: (line: LineRow) => void }) {
  const { data: session } = useSession();
  const [channel, setChannel] = useState<ChannelKind | null>(null);
  const [trial, setTrial] = useState(false);
  const close = () => setChannel(null);
  const connected = (line: LineRow) => {
    close();
    onConnected(line);
  };
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
          {session?.testPhone && (
            <View style={{ paddingBottom: 12 }}>
              <PickRow
                label="What for"
                value={trial ? 'trial' : 'real'}
                options={[
                  ['real', 'For real people'],
                  ['trial', 'For trying out'],
                ]}
                onChange={(value) => setTrial(value === 'trial')}
              />
            </View>
          )}
          {trial ? (
            <TrialForm channel={channel} path={path} onCancel={close} onConnected={connected} />
          ) : (
            <ConnectForm
              key={channel}
              channel={channel}
              path={path}
              onCancel={close}
              onConnected={connected}
            />
          )}
        </Sheet>
      )}
    </View>
  );
}
