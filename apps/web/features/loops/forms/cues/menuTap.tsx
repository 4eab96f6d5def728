import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const menuTap: CueEditor<'menu tap'> = {
  words: 'A menu tap or command',
  more: 'an entry of the line’s menus',
  fresh: () => ({ kind: 'menu tap', item: 'start' }),
  Own,
};

function Own({ cue, set }: OwnProps<'menu tap'>) {
  return (
    <TextRow
      label="The menu’s item or the command"
      placeholder="hours"
      value={cue.item}
      onChange={(item) => set({ item: item.toLowerCase() })}
    />
  );
}
