import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const listJoined: CueEditor<'list joined'> = {
  words: 'A list joined',
  more: 'somebody is added to a list',
  fresh: () => ({ kind: 'list joined', list: 'News' }),
  Own,
};

function Own({ cue, set }: OwnProps<'list joined'>) {
  return (
    <TextRow label="List" placeholder="Workshop news" value={cue.list} onChange={(list) => set({ list })} />
  );
}
