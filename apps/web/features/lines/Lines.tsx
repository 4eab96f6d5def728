import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { LineRow } from '@dart-loop/contract';
import { Page } from '../../ui/Page';
import { Empty, Failure, Notice, Waiting } from '../../ui/parts';
import { useSession } from '../session/useSession';
import { ConnectLine } from './ConnectLine';
import { LineSheet } from './LineSheet';

/** A client's lines: what each is, whether it works, and what to do when it does not. */
export function Lines() {
  const { client, aside } = useLocalSearchParams<{ client: string; aside?: string }>();
  const path = `/clients/${client}/lines`;
  const { data, error, mutate } = useSWR<LineRow[], Error>(path);
  const everyLine = useSession().data?.testPhone === 'every line';
  const [done, setDone] = useState<string | null>(null);
  return (
    <Page title="Lines" back={{ href: '/more', words: 'More', onPhoneOnly: true }}>
      {done && <Notice tone="quiet">{done}</Notice>}
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No line is connected"
          words="A line is a page, account, bot or number that the client’s people write to. Connect one below."
        />
      )}
      <View role="list" aria-label="Lines" style={{ gap: 12, marginTop: 12 }}>
        {failingFirst(data ?? []).map((line) => (
          <LineSheet
            key={line.id}
            line={line}
            client={client}
            path={path}
            showsAside={aside === String(line.id)}
            onDone={setDone}
          />
        ))}
      </View>
      {data && (
        <ConnectLine
          path={path}
          onConnected={(line) =>
            setDone(
              line.trial
                ? `${line.name} is ready. Write to it from the test phone.`
                : `${line.name} is connected. ${everyLine ? 'Point people to it, or write to it from the test phone.' : 'Point people to it.'}`,
            )
          }
        />
      )}
    </Page>
  );
}

const failingFirst = (lines: LineRow[]): LineRow[] =>
  [...lines].sort((a, b) => Number(b.state === 'failing') - Number(a.state === 'failing'));
