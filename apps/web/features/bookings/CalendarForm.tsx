import { useState } from 'react';
import { View } from 'react-native';
import { Calendar } from '@dart-loop/core/booking/calendar';
import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { HoursFields } from '../hours/HoursFields';
import { hoursOf, hoursProblems, typedHoursOf, type TypedHours } from '../hours/hours';
import { Refusal } from '../session/Refusal';
import { useAct } from '../session/useAct';

const OFFICE = { from: '09:00', to: '17:00' };
const OFFICE_WEEK = {
  monday: [OFFICE],
  tuesday: [OFFICE],
  wednesday: [OFFICE],
  thursday: [OFFICE],
  friday: [OFFICE],
};

/** What is typed, as it is typed. */
interface Draft {
  name: string;
  hours: TypedHours;
  length: string;
  gap: string;
  notice: string;
  ahead: string;
  places: string;
}

const draftOf = (calendar: Calendar | null): Draft => ({
  name: calendar?.name ?? '',
  hours: typedHoursOf(calendar?.hours ?? OFFICE_WEEK),
  length: calendar ? durationWords(calendar.length) : '1 h',
  gap: calendar?.gap ? durationWords(calendar.gap) : '',
  notice: calendar?.notice ? durationWords(calendar.notice) : calendar ? '' : '2 h',
  ahead: calendar ? durationWords(calendar.ahead) : '21 d',
  places: String(calendar?.places ?? 1),
});

/** What cannot be read of a draft, by its field. */
function problemsOf(draft: Draft): Record<string, string> {
  const problems: Record<string, string> = {};
  const time = 'A time is a number and a unit, such as “45 min”.';
  if (readDuration(draft.length) === null) problems.length = time;
  if (draft.gap.trim() !== '' && readDuration(draft.gap) === null) problems.gap = time;
  if (draft.notice.trim() !== '' && readDuration(draft.notice) === null) problems.notice = time;
  if (readDuration(draft.ahead) === null)
    problems.ahead = 'How far ahead is a number and a unit, such as “21 d”.';
  if (!/^[1-9]\d{0,2}$/.test(draft.places.trim())) problems.places = 'A number from 1 to 500.';
  return { ...problems, ...hoursProblems(draft.hours) };
}

/** The calendar that a draft without problems makes, or the sentence why it makes none. */
function calendarOf(draft: Draft): Calendar | string {
  const read = Calendar.safeParse({
    name: draft.name,
    hours: hoursOf(draft.hours),
    length: readDuration(draft.length),
    ...(readDuration(draft.gap) && { gap: readDuration(draft.gap) }),
    ...(readDuration(draft.notice) && { notice: readDuration(draft.notice) }),
    ahead: readDuration(draft.ahead),
    places: Number(draft.places),
  });
  if (read.success) return read.data;
  const { message } = read.error.issues[0]!;
  return `${message[0]!.toUpperCase()}${message.slice(1)}.`;
}

/**
 * When something can be booked, for how long, and how many at once. What cannot be read stays in its field
 * with the reason.
 */
export function CalendarForm({
  calendar,
  onClose,
  onKeep,
  theirs,
}: {
  calendar: Calendar | null;
  onClose: () => void;
  /** `over`: whatever somebody else has made of it meanwhile. */
  onKeep: (calendar: Calendar, over: boolean) => Promise<void>;
  /** The calendar as somebody else has changed it. */
  theirs: () => Promise<Calendar>;
}) {
  const [draft, setDraft] = useState(() => draftOf(calendar));
  const { act, busy, failure } = useAct();
  const problems = problemsOf(draft);
  const put = (change: Partial<Draft>) => setDraft((before) => ({ ...before, ...change }));
  const text = (
    key: Exclude<keyof Draft, 'hours'>,
    label: string,
    more: { hint?: string; placeholder?: string } = {},
  ) => (
    <Field
      label={label}
      value={draft[key]}
      problem={problems[key]}
      autoCapitalize="none"
      onChangeText={(typed) => put({ [key]: typed })}
      {...more}
    />
  );
  const keep = (over = false) =>
    act(async () => {
      const made = calendarOf(draft);
      if (typeof made === 'string') throw new Error(made);
      await onKeep(made, over);
    });
  return (
    <Dialog
      title={calendar ? calendar.name : 'Add calendar'}
      open
      onClose={onClose}
      foot={
        <>
          <Refusal
            failure={failure}
            busy={busy}
            onTheirs={() => void act(async () => setDraft(draftOf(await theirs())))}
            onMine={() => void keep(true)}
          />
          <ActionButton
            title={calendar ? 'Save calendar' : 'Add calendar'}
            busy={busy}
            disabled={draft.name.trim() === '' || Object.keys(problems).length > 0}
            onPress={() => void keep()}
          />
        </>
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        {text('name', 'Name', { placeholder: 'Trial session' })}
        {text('length', 'Length')}
        {text('places', 'Places at the same time')}
        {text('gap', 'Break after each', { placeholder: 'nothing' })}
        {text('notice', 'Minimum notice', { placeholder: 'no minimum' })}
        {text('ahead', 'How far ahead')}
        <HoursFields typed={draft.hours} problems={problems} onChange={(hours) => put({ hours })} />
      </View>
    </Dialog>
  );
}
