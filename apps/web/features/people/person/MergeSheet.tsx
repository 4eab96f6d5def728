import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { MergePreview, PersonPage } from '@dart-loop/contract';
import { Dialog } from '../../../ui/Menu';
import { ActionButton } from '../../../ui/press';
import { Failure, Waiting } from '../../../ui/parts';
import { PickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';
import { useAct } from '../../session/useAct';

/** Making one person of two: what differs is chosen field by field, the rest comes over. */
export function MergeSheet({
  client,
  person,
  other,
  onClose,
  onMerged,
}: {
  client: string;
  person: string;
  other: string;
  onClose: () => void;
  onMerged: (page: PersonPage) => void;
}) {
  const path = `/clients/${client}/people/${person}/merge`;
  const { data, error } = useSWR<MergePreview, Error>(`${path}?other=${other}`);
  const [take, setTake] = useState<string[]>([]);
  const { act, failure } = useAct();
  const merge = () => act(async () => onMerged(await ask<PersonPage>('POST', path, { other, take })));
  return (
    <Dialog
      title="Merge"
      open
      onClose={onClose}
      foot={
        data && (
          <ActionButton
            title={`Merge ${data.gone.name} into ${data.kept.name}`}
            onPress={() => void merge()}
          />
        )
      }
    >
      <View style={{ padding: 12, gap: 14 }}>
        {error && <Failure error={error} />}
        {!data && !error && <Waiting />}
        {data && (
          <>
            <Words>{`${data.gone.name} becomes part of ${data.kept.name}. For 30 days the merge can be undone, with everything put back.`}</Words>
            {data.differing.map(({ key, name, kept, gone }) =>
              kept === null ? (
                <Words
                  key={key}
                  kind="small"
                  color="ink"
                >{`${name}: ${gone}, known only of ${data.gone.name}, comes over.`}</Words>
              ) : (
                <PickRow
                  key={key}
                  label={name}
                  value={take.includes(key) ? 'gone' : 'kept'}
                  options={[
                    ['kept', kept],
                    ['gone', gone ?? ''],
                  ]}
                  onChange={(which) =>
                    setTake((now) => (which === 'gone' ? [...now, key] : now.filter((each) => each !== key)))
                  }
                />
              ),
            )}
            <View style={{ gap: 2 }}>
              <Words kind="smallStrong">Will be added</Words>
              {data.comesOver.map((words) => (
                <Words key={words} kind="small" color="ink">
                  {words}
                </Words>
              ))}
            </View>
          </>
        )}
        {failure && <Failure error={failure} />}
      </View>
    </Dialog>
  );
}
