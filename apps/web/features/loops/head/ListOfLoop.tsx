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
    <Dialog title="Writes to a list" open onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        <Words kind="small">
          What nobody asked for, such as reminders and what the team starts, then goes only to those who stand
          on the list when it is sent. Answers go to whoever writes.
        </Words>
        {error && <Failure error={error} />}
        {!data && !error && <Waiting />}
        {data && (
          <PickRow
            label="The list"
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
