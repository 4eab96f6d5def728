import { useLocalSearchParams } from 'expo-router';
import { View } from 'react-native';
import { hint } from '../../ui/onWeb';
import useSWR from 'swr';
import type { ErasureReceipt } from '@dart-loop/contract';
import { Page } from '../../ui/Page';
import { Empty, Failure, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { exact, grouped, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';

/** What each kind of row is called: one, many. */
const CALLED: Record<string, [string, string]> = {
  person: ['person', 'people'],
  conversation: ['conversation', 'conversations'],
  message: ['message', 'messages'],
  event: ['event', 'events'],
  decision: ['decision', 'decisions'],
  run: ['run', 'runs'],
  timer: ['timer', 'timers'],
  errand: ['call or alert', 'calls and alerts'],
  pending: ['event under way', 'events under way'],
  consent: ['entry of the ledger', 'entries of the ledger'],
  field_change: ['change of a field', 'changes of fields'],
  tag_change: ['change of a tag', 'changes of tags'],
  list_change: ['change of a list', 'changes of lists'],
  task_change: ['entry for undoing', 'entries for undoing'],
  contact: ['number or address', 'numbers and addresses'],
  'kept aside': ['message not processed', 'messages not processed'],
};

/** How much was erased, in words: what was most first. */
export const erasedWords = (counts: ErasureReceipt['counts']): string =>
  Object.entries(counts)
    .filter(([what]) => what in CALLED)
    .sort(([, one], [, other]) => other - one)
    .map(([what, count]) => `${grouped(count)} ${CALLED[what]![count === 1 ? 0 : 1]}`)
    .join(', ');

/**
 * The receipts of people who were erased: that it was done, when, by whom and why, and nothing about them.
 */
export function Erasures() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const { data, error, mutate } = useSWR<ErasureReceipt[], Error>(`/clients/${client}/erasures`);
  return (
    <Page
      title="Deletion receipts"
      back={{ href: `/${client}/people`, words: 'People', onPhoneOnly: true }}
      about="Who was deleted when, by whom and why, and how much was deleted. Nothing about the person is kept."
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="Nobody has been deleted yet"
          words="Delete one person on their page, or several in the People list. Each deletion leaves a receipt here."
        />
      )}
      <View role="list" aria-label="Deletion receipts">
        {data?.map((receipt) => (
          <View
            role="listitem"
            key={receipt.id}
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 4 }}
          >
            <Words
              kind="strong"
              {...hint(exact(receipt.at))}
            >{`${receipt.by ?? 'By itself'}, ${whenWords(receipt.at)}`}</Words>
            <Words>{receipt.reason}</Words>
            <Words kind="small">{`Deleted: ${erasedWords(receipt.counts)}`}</Words>
            <Words kind="code" selectable>
              {receipt.id}
            </Words>
          </View>
        ))}
      </View>
    </Page>
  );
}
