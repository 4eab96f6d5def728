import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const silence: CueEditor<'silence'> = {
  words: 'Silence',
  more: 'nothing received for some time',
  fresh: () => ({ kind: 'silence', after: '7d' }),
  Own,
};

function Own({ cue, set }: OwnProps<'silence'>) {
  return (
    <TextRow
      label="Nothing received for"
      placeholder="7 d"
      value={durationWords(cue.after)}
      read={(typed) => (readDuration(typed) ? null : 'A time is a number and a unit, such as “7 d”.')}
      onChange={(typed) => set({ after: readDuration(typed) })}
    />
  );
}
