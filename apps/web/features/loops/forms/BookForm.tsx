import { durationWords } from '@dart-loop/core/loops/model/basics';
import { fold } from '@dart-loop/core/language/fold';
import { fieldKey } from '@dart-loop/core/language/slug';
import { Group, PickRow, TextRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { Languages } from './Languages';
import { NumberRow } from './NumberRow';
import { OptionalExit } from './OptionalExit';
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
      <NumberRow
        label="Number of times to offer"
        placeholder="6"
        value={step.offer}
        most={10}
        onChange={(offer) => set([['offer'], offer])}
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
      <OptionalExit
        label="Separate exit when nothing is free"
        of="Nothing free"
        to={step.full}
        scenes={scenes}
        onChange={(to) => set([['full'], to])}
      />
      <Languages step={step} set={set} known={known} labels={[]} list="options" />
    </>
  );
}
