import { fieldKey } from '@dart-loop/core/language/slug';
import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const fieldChanged: CueEditor<'field changed'> = {
  words: 'A field changed',
  more: 'to anything, or to one value',
  fresh: () => ({ kind: 'field changed', field: 'email' }),
  Own,
};

function Own({ cue, set }: OwnProps<'field changed'>) {
  return (
    <>
      <TextRow
        label="Field"
        placeholder="email"
        value={cue.field}
        onChange={(field) => set({ field: fieldKey(field) })}
      />
      <TextRow
        label="Only when it becomes"
        placeholder="anything"
        value={cue.to ?? ''}
        onChange={(to) => set({ to: to.trim() || undefined })}
      />
    </>
  );
}
