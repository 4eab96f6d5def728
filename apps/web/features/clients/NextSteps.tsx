import { View } from 'react-native';
import useSWR from 'swr';
import type { LineRow, LoopRow } from '@dart-loop/contract';
import { Sheet } from '../../ui/parts';
import { TextLink } from '../../ui/press';
import { Words } from '../../ui/Words';
import { useMay } from '../session/useSession';

/** What a new client still needs before anything is answered; nothing once it is live. */
export function NextSteps({ client }: { client: string }) {
  const may = useMay();
  const canSee = may('see lines') && may('see loops');
  const lines = useSWR<LineRow[]>(canSee ? `/clients/${client}/lines` : null).data;
  const loops = useSWR<LoopRow[]>(canSee ? `/clients/${client}/loops` : null).data;
  if (!lines || !loops) return null;
  const steps: { done: boolean; words: string; href: string; action: string }[] = [
    { done: lines.length > 0, words: 'A line that people write to', href: 'lines', action: 'Connect a line' },
    { done: loops.length > 0, words: 'A loop that answers them', href: 'loops', action: 'Add a loop' },
    {
      done: loops.some(({ state }) => state === 'live'),
      words: 'The loop is published',
      href: 'loops',
      action: 'Publish the loop',
    },
  ];
  const next = steps.find(({ done }) => !done);
  if (!next) return null;
  return (
    <Sheet style={{ padding: 16, gap: 8 }}>
      <Words kind="strong">Not live yet</Words>
      <View role="list" aria-label="What is still to do" style={{ gap: 4 }}>
        {steps.map(({ done, words }) => (
          <View key={words} role="listitem">
            <Words
              kind="small"
              color={done ? 'quiet' : 'ink'}
            >{`${done ? '✓ done' : '○ to do'}: ${words}`}</Words>
          </View>
        ))}
      </View>
      <TextLink href={`/${client}/${next.href}`}>{next.action}</TextLink>
    </Sheet>
  );
}
