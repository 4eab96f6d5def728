import { View } from 'react-native';
import type { PersonPage } from '@dart-loop/contract';
import { Notice } from '../../../ui/parts';
import { QuietButton } from '../../../ui/press';
import { dateWords, whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';

/** Others who may be the same person, and merges that can still be undone. */
export function Alike({
  client,
  path,
  data,
  keep,
  onMerge,
}: {
  client: string;
  path: string;
  data: PersonPage;
  keep: (words: string, work: () => Promise<PersonPage | void>) => Promise<void>;
  onMerge: (other: string) => void;
}) {
  return (
    <>
      {data.alike.map((alike) => (
        <Notice key={alike.id} tone="warning">
          <Words
            kind="small"
            color="ink"
          >{`${alike.name} may be the same person: both have ${alike.shared.join(' and ')}.`}</Words>
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            <QuietButton outlined title="Review merge" onPress={() => onMerge(alike.id)} />
            <QuietButton
              title="Not the same person"
              onPress={() =>
                void keep(`${alike.name} is not suggested again.`, () =>
                  ask('POST', `${path}/not-same`, { other: alike.id }),
                )
              }
            />
          </View>
        </Notice>
      ))}
      {data.merged.map((merge) => (
        <Notice key={merge.id} tone="quiet">
          <Words
            kind="small"
            color="ink"
          >{`Merged with ${merge.name} ${whenWords(merge.at)}. This can be undone until ${dateWords(merge.until, { day: 'numeric', month: 'short' })}.`}</Words>
          <View style={{ flexDirection: 'row' }}>
            <QuietButton
              outlined
              title="Undo merge"
              onPress={() =>
                void keep(
                  `${merge.name} is a person of their own again, as before.`,
                  async () => void (await ask('POST', `/clients/${client}/merges/${merge.id}/part`, {})),
                )
              }
            />
          </View>
        </Notice>
      ))}
    </>
  );
}
