import { saysDontKnow } from '../answers';
import { fold } from '../fold';
import { readMoments, usual } from '../moments';
import { WEEKDAYS } from '../../time/clockTime';
import { asRead, unread, type ReadingWorld, type ReplyReader } from './reading';

export const time: ReplyReader = {
  type: 'time',
  words: 'a time of day',
  example: 'half past six',
  /**
   * Reads "17:30", "half past six", "5pm", "5", "halb sieben abends" to HH:MM. Of the two halves of the day
   * that a clock of twelve hours may mean, it is the one in which the client is open; where both or neither
   * are, it is asked which. Where no hours are known it is the one from eight to eight. Of a part of the day
   * ("after lunch") it is asked which time.
   */
  read(said, world) {
    const found = /(?<![\d:.])(\d{1,2})[:.](\d{2})(?![\d:.])/.exec(said);
    if (found && (Number(found[1]) > 23 || Number(found[2]) > 59))
      return unread(`“${found[0]}” is no time of day`);
    if (saysDontKnow(fold(said))) return unread('it says that they do not know');
    const { meant, excluded } = readMoments(said, { ...world, asksTime: !world.onlyNamed });
    const timed = meant.filter(({ times }) => times.length > 0);
    const parts = meant.flatMap(({ part }) => part ?? []);
    if (timed.length === 0 && parts.length === 1)
      return {
        ...unread('it names no single time'),
        span: { type: 'time', from: parts[0]!.from, to: parts[0]!.to },
      };
    if (timed.length === 0)
      return unread(excluded.length > 0 ? 'it says which time it is not' : 'there is no time of day in it');
    const choices = [...new Set(timed.flatMap(({ times }) => openIn(times, world)))];
    if (choices.length === 1)
      return timed[0]!.times.length === 1
        ? asRead({ type: 'time', value: choices[0]! })
        : asRead(
            { type: 'time', value: choices[0]! },
            0.7,
            choices[0]!,
            'it could be the other half of the day',
          );
    if (choices.length === 2)
      return {
        ...unread('it could be either of two times'),
        either: choices.sort().map((value) => ({ type: 'time', value })),
      };
    return unread('it holds more than one time');
  },
};

/** Of both halves of the day the one in which the client is open; both where that does not tell. */
function openIn(times: readonly string[], { hours, within }: ReadingWorld): string[] {
  const inside = within
    ? times.filter((each) => each >= (within.from ?? '') && each <= (within.to ?? '9'))
    : [];
  if (inside.length > 0) return inside;
  const spans = WEEKDAYS.flatMap((day) => hours?.[day] ?? []);
  if (times.length === 1 || spans.length === 0) return [usual(times)!];
  const open = times.filter((each) => spans.some((span) => each >= span.from && each < span.to));
  return open.length === 1 ? open : [...times];
}
