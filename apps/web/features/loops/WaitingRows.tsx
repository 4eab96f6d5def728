import { View } from 'react-native';
import type { Step } from '@dart-loop/core';
import {
  MOST_REMINDERS,
  durationMs,
  durationWords,
  inOrder,
  type Reminder,
} from '@dart-loop/core/loops/model/basics';
import { waitingOf } from '@dart-loop/core/engine/steps/index';
import { Menu } from '../../ui/Menu';
import { Words } from '../../ui/Words';
import { EditableText } from './EditableText';
import { ExitRow } from './ExitRow';

/** The times that are offered for a silence. */
export const TIMES = ['10m', '30m', '1h', '3h', '6h', '12h', '1d', '2d', '3d', '7d'];

/** The reminders with one more, at the next time that is offered; null where there is none left. */
export function withReminder(reminders: readonly Reminder[]): Reminder[] | null {
  const last = reminders.at(-1);
  const after = TIMES.find((time) => durationMs(time) > (last ? durationMs(last.after) : durationMs('1h')));
  return after && reminders.length < MOST_REMINDERS
    ? [...reminders, { after, text: 'Are you still there?' }]
    : null;
}

/** What a waiting step says while it waits: again when a reply cannot be read, and when none comes. */
export function WaitingRows({
  step,
  change,
}: {
  step: Step;
  change: (path: (string | number)[], value: unknown) => void;
}) {
  const waiting = waitingOf(step);
  if (!waiting) return null;
  const { retry, reminders = [] } = waiting;
  const put = (next: readonly Reminder[]) =>
    change(['reminders'], next.length > 0 ? inOrder(next) : undefined);
  const isTaken = (time: string, at: number) =>
    reminders.some(({ after }, index) => index !== at && durationMs(after) === durationMs(time));
  return (
    <>
      {retry && (
        <ExitRow letter="↻" remove="Remove the retry" onRemove={() => change(['retry'], undefined)}>
          <View style={{ flex: 1, minWidth: 120, paddingVertical: 8 }}>
            <Words kind="small">{`when it cannot be read, ${retry.times === 1 ? 'once' : `up to ${retry.times} times`}:`}</Words>
            <EditableText
              value={retry.text}
              label="Retry wording"
              placeholder="How do you ask again?"
              onChange={(text) => change(['retry', 'text'], text)}
              merges
            />
          </View>
        </ExitRow>
      )}
      {reminders.map((reminder, at) => (
        <ExitRow
          key={reminder.after}
          letter="◷"
          remove={`Remove the reminder after ${durationWords(reminder.after)}`}
          onRemove={() => put(reminders.filter((_, index) => index !== at))}
        >
          <View style={{ flex: 1, minWidth: 120, paddingVertical: 4 }}>
            <Menu
              compact
              label={`Reminder after ${durationWords(reminder.after)}. Change the time`}
              title="Remind after"
              items={TIMES.filter((time) => !isTaken(time, at)).map((time) => ({
                key: time,
                words: durationWords(time),
                chosen: reminder.after === time,
                onChoose: () =>
                  put(reminders.map((each, index) => (index === at ? { ...each, after: time } : each))),
              }))}
            >
              <Words kind="small">{`no reply in ${durationWords(reminder.after)}, say:`}</Words>
            </Menu>
            <EditableText
              value={reminder.text}
              label={`Words of the reminder after ${durationWords(reminder.after)}`}
              placeholder="How do you remind them?"
              onChange={(text) => change(['reminders', at, 'text'], text)}
              merges
            />
          </View>
        </ExitRow>
      ))}
    </>
  );
}
