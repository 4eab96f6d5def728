import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const link: CueEditor<'link'> = {
  words: 'A link or QR code',
  more: 'somebody opens it',
  fresh: (name) => ({ kind: 'link', ref: name }),
  Own,
};

function Own({ cue, set, loop }: OwnProps<'link'>) {
  return (
    <TextRow
      label="Reference"
      placeholder="summer-poster"
      hint="Letters, digits, - and _. Find the links and QR codes under Ways in once the loop is live."
      value={cue.ref}
      onChange={(ref) => set({ ref })}
    />
  );
}
