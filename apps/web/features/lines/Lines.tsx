import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { LineRow } from '@dart-loop/contract';
import { Dialog } from '../../ui/Menu';
import { QuietButton, TextLink, ActionButton } from '../../ui/press';
import { ChannelMark, Empty, Failure, Notice, Page, Sheet, StateShape, Waiting } from '../../ui/parts';
import { exact, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { ConnectLine } from './ConnectLine';

/** A client's lines: what each is, whether it works, and what to do when it does not. */
export function Lines() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/lines`;
  const { data, error, mutate } = useSWR<LineRow[], Error>(path);
  const [done, setDone] = useState<string | null>(null);
  return (
    <Page title="Lines" above={<TextLink href="/more">‹ More</TextLink>}>
      {done && <Notice tone="quiet">{done}</Notice>}
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No line is connected"
          words="A line is a bot or a number that the client’s people write to. Connect one below; its loops can speak as soon as it is heard."
        />
      )}
      <View role="list" aria-label="Lines" style={{ gap: 12, marginTop: 12 }}>
        {data?.map((line) => (
          <Line key={line.id} line={line} path={path} onDone={setDone} />
        ))}
      </View>
      {data && (
        <ConnectLine
          path={path}
          onConnected={(line) => setDone(`${line.name} is connected. Point people to it, or write to it from the test phone.`)}
        />
      )}
    </Page>
  );
}

const STATES = {
  'never heard': ['warning', 'connected, never heard yet'],
  connected: ['live', 'connected'],
  failing: ['failing', 'failing'],
} as const;

function Line({ line, path, onDone }: { line: LineRow; path: string; onDone: (words: string) => void }) {
  const { mutate } = useSWRConfig();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const [asking, setAsking] = useState(false);
  const act = async (work: () => Promise<string | null>) => {
    setBusy(true);
    setProblem(null);
    try {
      const words = await work();
      if (words) onDone(words);
      await mutate(path);
    } catch (error) {
      setProblem(error as Error);
    } finally {
      setBusy(false);
    }
  };
  const [tone, state] = STATES[line.state];
  const heard = line.lastHeardAt ? `last heard ${whenWords(line.lastHeardAt)}` : 'nobody has written yet';
  const sent = line.lastSentAt ? `, last sent ${whenWords(line.lastSentAt)}` : '';
  return (
    <View role="listitem">
      <Sheet style={{ padding: 16, gap: 6 }}>
        <View style={{ flexDirection: 'row', gap: 8, alignItems: 'center', flexWrap: 'wrap' }}>
          <ChannelMark channel={line.channel} />
          <Words kind="heading">{line.name}</Words>
          <Words kind="code">{line.key}</Words>
        </View>
        <View style={{ flexDirection: 'row' }}>
          <StateShape tone={tone} />
          <Words
            kind="small"
            color="ink"
            {...({ title: line.lastHeardAt ? exact(line.lastHeardAt) : undefined } as object)}
            style={{ flex: 1 }}
          >
            {`${state}${line.failingSince ? ` since ${whenWords(line.failingSince).replace(/^on /, '')}` : ''}; ${heard}${sent}${line.held > 0 ? `; ${line.held === 1 ? '1 message waits' : `${line.held} messages wait`} to be sent` : ''}${line.aside > 0 ? `; ${line.aside} signed requests were not understood and are kept aside` : ''}`}
          </Words>
        </View>
        {line.failure && <Notice tone="failing">{`${line.failure.reason} ${line.failure.remedy}`}</Notice>}
        <Words kind="smallStrong">Webhook address</Words>
        <Words kind="code" selectable style={{ wordBreak: 'break-all' } as object}>
          {line.webhook}
        </Words>
        <Words kind="small">
          {Object.entries(line.hints)
            .map(([name, hint]) => `${name} …${hint}`)
            .join(', ')}
        </Words>
        {problem && <Notice tone="failing">{problem.message}</Notice>}
        <View style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}>
          <QuietButton
            outlined
            title={busy ? 'Testing …' : 'Test'}
            label={`Test ${line.name}`}
            disabled={busy}
            onPress={() =>
              void act(async () => {
                const tested = await ask<LineRow>('POST', `${path}/${line.id}/test`, {});
                return tested.failure ? null : `${line.name} answers, and its webhook points here.`;
              })
            }
          />
          <QuietButton title="Disconnect" label={`Disconnect ${line.name}`} tone="red" disabled={busy} onPress={() => setAsking(true)} />
        </View>
        <Dialog title={`Disconnect ${line.name}?`} open={asking} onClose={() => setAsking(false)}>
          <View style={{ padding: 12, gap: 12 }}>
            <Words>
              Its secrets are wiped at once, and messages that still wait are closed. Conversations and people are kept; to connect it again
              its secrets must be typed again.
            </Words>
            <View style={{ flexDirection: 'row', gap: 8 }}>
              <ActionButton
                title={`Disconnect ${line.name}`}
                onPress={() => {
                  setAsking(false);
                  void act(async () => (await ask<{ words: string }>('DELETE', `${path}/${line.id}`)).words);
                }}
              />
              <QuietButton title="Keep it" onPress={() => setAsking(false)} />
            </View>
          </View>
        </Dialog>
      </Sheet>
    </View>
  );
}
