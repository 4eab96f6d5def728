import { fieldKey } from '@dart-loop/core/language/slug';
import { readTimeOfDay } from '@dart-loop/core/loops/edit/typedTime';
import { TextRow, TickRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const date: CueEditor<'date'> = {
  words: 'A date',
  more: 'before, on or after the day in a field',
  fresh: () => ({ kind: 'date', field: 'day', days: -1, at: '10:00' }),
  Own,
};

function Own({ cue, set }: OwnProps<'date'>) {
  return (
    <>
      <TextRow
        label="Field with the day"
        placeholder="arrival"
        value={cue.field}
        onChange={(field) => set({ field: fieldKey(field) })}
      />
      <TextRow
        label="Days after it (before it: with a minus)"
        placeholder="-1"
        value={String(cue.days)}
        read={(typed) =>
          /^-?\d{1,3}$/.test(typed.trim()) ? null : 'A whole number of days, such as -1 for the day before.'
        }
        onChange={(typed) => set({ days: Number(typed) })}
      />
      <TextRow
        label="At"
        placeholder="10:00"
        value={cue.at}
        read={(typed) => (readTimeOfDay(typed) ? null : 'A time of day, such as 10:00.')}
        onChange={(typed) => set({ at: readTimeOfDay(typed) })}
      />
      <TickRow
        label="Every year again"
        on={cue.yearly === true}
        onChange={(on) => set({ yearly: on ? true : undefined })}
      />
    </>
  );
}
