import { View } from 'react-native';
import useSWR from 'swr';
import type { ListRow } from '@dart-loop/contract';
import { Dialog } from '../../../ui/Menu';
import { Failure, Waiting } from '../../../ui/parts';
import { PickRow } from '../../../ui/rows';
import { TextLink } from '../../../ui/press';
import { Words } from '../../../ui/Words';

const NONE = '';

/** The list that a loop writes to: what nobody asked for goes only to those who stand on it. */
export function ListOfLoop({
  client,
  list,
  onChoose,
  onClose,
}: {
  client: string;
  list: string | undefined;
  onChoose: (list: string | undefined) => void;
  onClose: () => void;
}) {
  const { data, error } = useSWR<ListRow[], Error>(`/clients/${client}/lists`);
  const names = [...new Set([...(data ?? []).map(({ name }) => name), ...(list ? [list] : [])])];
  return (
    <Dialog title="List it writes to" open onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        <Words kind="small">
          Messages that a person did not ask for, such as reminders, are then sent only to people on the list.
          Answers are always sent.
        </Words>
        {error && <Failure error={error} />}
        {!data && !error && <Waiting />}
        {data && (
          <PickRow
            label="List"
            value={list ?? NONE}
            options={[[NONE, 'none'] as const, ...names.map((name) => [name, name] as const)]}
            onChange={(next) => onChoose(next === NONE ? undefined : next)}
          />
        )}
        <TextLink href={`/${client}/lists`}>All lists</TextLink>
      </View>
    </Dialog>
  );
}
