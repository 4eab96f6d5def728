import { durationWords } from '@dart-loop/core/loops/model/basics';
import { fold } from '@dart-loop/core/language/fold';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { TargetMenu } from '../TargetMenu';
import { Languages } from './Languages';
import type { FormProps } from './formProps';

/**
 * In which calendar it books, how many times it offers, where the day and the time are kept, and what happens
 * when nothing is free.
 */
export function BookForm({ step, set, scenes, known }: FormProps<'book'>) {
  const calendars = known?.calendars ?? [];
  const chosen = calendars.find(({ calendar }) => fold(calendar.name) === fold(step.calendar))?.calendar;
  return (
    <>
      {calendars.length > 0 ? (
        <PickRow
          label="Calendar"
          value={chosen?.name ?? step.calendar}
          options={[
            ...(chosen ? [] : ([[step.calendar, `${step.calendar} (missing)`]] as const)),
            ...calendars.map(({ calendar }) => [calendar.name, calendar.name] as const),
          ]}
          onChange={(name) => set([['calendar'], name])}
        />
      ) : (
        <Words kind="small">The client has no calendar yet. Add one under Bookings.</Words>
      )}
      {chosen && (
        <Words kind="small">
          {`${durationWords(chosen.length)} each, ${chosen.places === 1 ? 'one place' : `${chosen.places} places`} at a time. A time is never given twice.`}
        </Words>
      )}
      <TextRow
        label="Number of times to offer"
        placeholder="6"
        value={step.offer === undefined ? '' : String(step.offer)}
        read={(typed) =>
          typed.trim() === '' || /^([1-9]|10)$/.test(typed.trim()) ? null : 'A number from 1 to 10.'
        }
        onChange={(typed) => set([['offer'], typed.trim() === '' ? undefined : Number(typed)])}
      />
      <Group title="Saved with the person">
        {(['day', 'time'] as const).map((part) => (
          <TextRow
            key={part}
            label={part === 'day' ? 'Save the day in' : 'Save the time in'}
            value={step[part]}
            read={(typed) => (fieldKey(typed) ? null : 'A field has a name, such as “trial day”.')}
            onChange={(typed) => set([[part], fieldKey(typed)])}
          />
        ))}
      </Group>
      <TickRow
        label="Separate exit when nothing is free"
        on={step.full !== undefined}
        onChange={(on) => set([['full'], on ? 'next' : undefined])}
      />
      {step.full !== undefined && (
        <TargetMenu scenes={scenes} to={step.full} of="Nothing free" onChoose={(to) => set([['full'], to])} />
      )}
      <Languages step={step} set={set} known={known} labels={[]} list="options" />
    </>
  );
}
