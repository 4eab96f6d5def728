import { useState } from 'react';
import { View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import useSWR from 'swr';
import type { DeliveryPage, PreviewRow } from '@dart-loop/contract';
import { Failure, Refused, StateLine } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { OneDelivery } from './Deliveries';

/** A row as it goes out, column by column. */
export function Cells({ cells }: { cells: PreviewRow['cells'] }) {
  const entries = Object.entries(cells);
  if (entries.length === 0) return <Words kind="small">Nothing is known that goes into a column.</Words>;
  return (
    <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 14 }}>
      {entries.map(([column, cell]) => (
        <View key={column} style={{ flexDirection: 'row', gap: 5, maxWidth: '100%' }}>
          <Words kind="small">{column}</Words>
          <Words kind="code" color="ink" style={webStyle({ flexShrink: 1, wordBreak: 'break-word' })}>
            {typeof cell === 'string' ? cell : JSON.stringify(cell)}
          </Words>
        </View>
      ))}
    </View>
  );
}

/** The last people who were met, as they would go out; each can be sent now. */
export function Preview({
  client,
  path,
  isWhole,
  onTried,
}: {
  client: string;
  path: string;
  isWhole: boolean;
  onTried: () => void;
}) {
  const { colors } = useTheme();
  const { data, error, mutate } = useSWR<PreviewRow[], Error>(`${path}/preview`);
  const [tried, setTried] = useState<DeliveryPage | null>(null);
  const [trying, setTrying] = useState<string | null>(null);
  const { act, busy, problem } = useAct();
  const send = (personId: string) => {
    setTrying(personId);
    return act(async () => {
      setTried(await ask<DeliveryPage>('POST', `${path}/try`, { personId }));
      onTried();
    });
  };
  return (
    <View style={{ gap: 4, marginTop: 8 }}>
      <Words kind="heading">Preview</Words>
      <Words kind="small">
        {isWhole
          ? 'The last ten people, as they stand now; the file holds everybody it is for.'
          : 'The last ten people, as they stand now. A try sends one of them at once, whatever tags or runs they have, and shows what came back.'}
      </Words>
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      <Refused problem={problem} />
      {data?.length === 0 && <Words kind="small">The client has nobody yet.</Words>}
      <View role="list" aria-label="Preview">
        {data?.map((row) => (
          <View
            key={row.personId}
            role="listitem"
            style={{
              borderTopWidth: 1,
              borderColor: colors.line,
              paddingVertical: 6,
              flexDirection: 'row',
              alignItems: 'center',
              gap: 8,
            }}
          >
            <View style={{ flex: 1, minWidth: 0 }}>
              <Words kind="strong">{row.name}</Words>
              {row.leftOut ? (
                <StateLine tone="warning">{`Left out: ${row.leftOut}`}</StateLine>
              ) : (
                <Cells cells={row.cells} />
              )}
              {row.problems.map(({ column, reason }) => (
                <StateLine key={column} tone="warning">{`${column} is left out: ${reason}`}</StateLine>
              ))}
            </View>
            {!isWhole && (
              <QuietButton
                title={busy && trying === row.personId ? 'Trying' : 'Try'}
                tone="teal"
                label={`Try with ${row.name}`}
                disabled={busy}
                onPress={() => void send(row.personId)}
              />
            )}
          </View>
        ))}
      </View>
      {tried && <OneDelivery client={client} id={tried.id} given={tried} onClose={() => setTried(null)} />}
    </View>
  );
}
