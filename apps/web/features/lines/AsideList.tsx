import { useState } from 'react';
import { View } from 'react-native';
import { hint } from '../../ui/onWeb';
import useSWR from 'swr';
import type { AsideItem, AsidePage, LineRow } from '@dart-loop/contract';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { exact, grouped, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

const KINDS: Record<AsideItem['kind'], string> = {
  'not understood': 'Not understood',
  'not stored': 'Not stored',
  'not decided': 'Not answered',
  'lead form': 'Lead form',
};

/**
 * What could not be processed on a line: why, with everything of people masked, and tried again one by one or
 * all together.
 */
export function AsideList({ line, client, path }: { line: LineRow; client: string; path: string }) {
  const { colors } = useTheme();
  const address = `${path}/${line.id}/aside`;
  const { data, error, mutate } = useSWR<AsidePage, Error>(address);
  const { act, busy, problem } = useAct(() => mutate());
  const [open, setOpen] = useState<number | null>(null);
  const again = (ids?: number[]) => act(() => ask('POST', `${address}/again`, ids ? { ids } : {}));
  if (error && !data) return <Failure error={error} again={() => void mutate()} />;
  if (!data) return <Waiting />;
  if (data.total === 0)
    return (
      <Empty
        title="Everything is processed"
        words="Messages that cannot be processed are shown here with the reason, and can be tried again."
      />
    );
  return (
    <View style={{ padding: 12, gap: 12 }}>
      <Words>
        These messages were received but could not be processed. Nothing else waits for them. Try again once
        the reason is fixed, or after an update.
      </Words>
      <Refused problem={problem} />
      {data.total > 1 && (
        <ActionButton
          title={`Try all ${grouped(data.total)} again`}
          disabled={busy}
          onPress={() => void again()}
        />
      )}
      <View role="list" aria-label={`Not processed on ${line.name}`}>
        {data.items.map((item) => (
          <View
            role="listitem"
            key={item.id}
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 6 }}
          >
            <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 8, alignItems: 'baseline' }}>
              <Words kind="strong">{KINDS[item.kind]}</Words>
              <Words kind="small" {...hint(exact(item.at))}>
                {`${whenWords(item.at)}${item.tries > 1 ? ` · tried ${item.tries} times` : ''}${item.againAt ? ` · tried again ${whenWords(item.againAt)}` : ''}`}
              </Words>
            </View>
            <Words>{`${item.reason.charAt(0).toUpperCase()}${item.reason.slice(1)}.`}</Words>
            {open === item.id && (
              <Words kind="code" selectable>
                {item.masked}
              </Words>
            )}
            <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
              <QuietButton
                outlined
                title="Try again"
                label={`Try again: ${item.reason}`}
                disabled={busy}
                onPress={() => void again([item.id])}
              />
              <QuietButton
                title={open === item.id ? 'Hide content' : 'Show masked content'}
                label={`${open === item.id ? 'Hide content' : 'Show masked content'}: ${item.reason}`}
                onPress={() => setOpen(open === item.id ? null : item.id)}
              />
              {item.conversationId && (
                <TextLink href={`/inbox/${client}/${item.conversationId}`}>Open conversation</TextLink>
              )}
            </View>
          </View>
        ))}
      </View>
      {data.total > data.items.length && (
        <Words kind="small">{`The newest ${data.items.length} of ${grouped(data.total)}.`}</Words>
      )}
    </View>
  );
}
