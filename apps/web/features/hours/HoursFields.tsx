import type { ReactNode } from 'react';
import { WEEKDAYS } from '@dart-loop/core/time/clockTime';
import { Field } from '../../ui/Field';
import { Group } from '../../ui/rows';
import type { TypedHours } from './hours';

/** A line for each weekday, and one for closed days. What cannot be read stays in its field with why. */
export function HoursFields({
  typed,
  problems,
  onChange,
  editable = true,
  holidays,
}: {
  typed: TypedHours;
  problems: Record<string, string>;
  onChange: (next: TypedHours) => void;
  editable?: boolean;
  /** Where public holidays are chosen. */
  holidays?: ReactNode;
}) {
  return (
    <Group title="Opening hours">
      {WEEKDAYS.map((day) => (
        <Field
          key={day}
          label={`${day[0]!.toUpperCase()}${day.slice(1)}`}
          placeholder="closed"
          value={typed.days[day]}
          problem={problems[day]}
          editable={editable}
          onChangeText={(hours) => onChange({ ...typed, days: { ...typed.days, [day]: hours } })}
        />
      ))}
      <Field
        label="Closed days"
        placeholder="12-25, 12-26, 2027-03-26"
        hint="Every year “12-25”, or one date “2027-03-26”."
        autoCapitalize="none"
        value={typed.daysOff}
        problem={problems.daysOff}
        editable={editable}
        onChangeText={(daysOff) => onChange({ ...typed, daysOff })}
      />
      {holidays}
      <Field
        label="Other hours on single dates"
        placeholder="2026-12-24 9-12"
        hint="A date and its hours on each line; they count over everything above."
        autoCapitalize="none"
        multiline
        style={{ minHeight: 66, textAlignVertical: 'top' }}
        value={typed.otherHours}
        problem={problems.otherHours}
        editable={editable}
        onChangeText={(otherHours) => onChange({ ...typed, otherHours })}
      />
    </Group>
  );
}
