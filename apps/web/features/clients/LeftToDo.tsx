import { View } from 'react-native';
import useSWR from 'swr';
import type { LeftToDo as Left } from '@dart-loop/contract/clients';
import { Refused, Sheet } from '../../ui/parts';
import { TextLink } from '../../ui/press';
import { TickRow } from '../../ui/rows';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

/** Where it is asked for. */
export const leftPath = (client: string): string => `/clients/${client}/left-to-do`;

/** What is left to do by hand since a set-up was copied in; nothing once all is done. */
export function LeftToDo({ client }: { client: string }) {
  const path = leftPath(client);
  const { data, mutate } = useSWR<Left[]>(path);
  const { act, problem } = useAct();
  if (!data || data.length === 0) return null;
  const done = (id: number) =>
    act(
      async () =>
        void (await mutate(await ask<Left[]>('POST', `${path}/${id}/done`, {}), { revalidate: false })),
    );
  return (
    <Sheet style={{ padding: 16, gap: 8 }}>
      <Words kind="strong">{`Left to do since the set-up of ${data[0]!.from} was copied`}</Words>
      <Refused problem={problem} />
      <View role="list" aria-label="Left to do" style={{ gap: 4 }}>
        {data.map(({ id, words, place }) => (
          <View key={id} role="listitem" style={{ flexDirection: 'row', alignItems: 'center', gap: 12 }}>
            <View style={{ flex: 1, minWidth: 0 }}>
              <TickRow label={words} on={false} onChange={() => void done(id)} />
            </View>
            <TextLink href={`/${client}/${place}`} label={`Open: ${words}`}>
              Open
            </TextLink>
          </View>
        ))}
      </View>
    </Sheet>
  );
}
