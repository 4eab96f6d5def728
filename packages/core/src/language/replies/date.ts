import { addDays, localTime } from '../../time/zones';
import { saysDontKnow } from '../answers';
import { fold } from '../fold';
import { readMoments, type Days } from '../moments';
import { asRead, unread, type ReplyReader } from './reading';

/** "In two months" is not said to the day. */
const ABOUT = 0.5;

export const date: ReplyReader = {
  type: 'date',
  words: 'a date',
  example: 'tomorrow',
  /**
   * Reads "2026-11-25", "25/11", "next Wednesday after lunch", "the 12th", "a fortnight on Friday" to
   * YYYY-MM-DD in the person's zone. Ahead only, unless the question says otherwise. Day before month, but
   * where the client's country writes it the other way. Of two days that may be meant, and of a span, it is
   * asked which.
   */
  read(said, world) {
    if (saysDontKnow(fold(said))) return unread('it says that they do not know');
    const { meant, excluded, impossible } = readMoments(said, world);
    const named = meant.filter(({ days }) => days.length > 0);
    if (impossible !== null) return unread(`“${impossible}” is no day of the calendar`);
    if (named.length === 0)
      return unread(excluded.length > 0 ? 'it says which day it is not' : 'there is no date in it');
    if (named.length > 2) return unread('it holds more than two dates');
    const side = world.days ?? 'ahead';
    const today = localTime(world.now, world.zone).date;
    const choices = named.flatMap(({ days }) => days);
    const checked = choices.map((days) => within(days, today, side));
    const left = checked.filter((each): each is Days => typeof each !== 'string');
    if (left.length === 0) return unread(checked.find((each) => typeof each === 'string') as string);
    const single = left.filter(isOneDay);
    if (single.length === 1 && left.length === 1)
      return named[0]!.isAbout
        ? asRead(
            { type: 'date', value: single[0]!.from },
            ABOUT,
            single[0]!.from,
            'it is not said to the day',
          )
        : asRead({ type: 'date', value: single[0]!.from }, 1, single[0]!.from);
    if (single.length === 2 && left.length === 2)
      return {
        ...unread('it could be either of two days'),
        either: single
          .map(({ from }) => from)
          .sort()
          .map((value) => ({ type: 'date', value })),
      };
    if (left.length > 1) return unread('it holds more than one date');
    return { ...unread('it names no single day'), span: { type: 'date', ...left[0]! } };
  },
};

const isOneDay = (days: Days): days is { from: string; to: string } =>
  days.from !== null && days.from === days.to;

/** What of the days is on the side that is asked for; a sentence part where nothing is. */
function within(days: Days, today: string, side: 'ahead' | 'past' | 'any'): Days | string {
  const { from, to } = days;
  const words = from === to ? from! : 'it';
  if (side === 'ahead' && to !== null && to < today) return `${words} has gone by`;
  if (side === 'past' && from !== null && from > today) return `${words} is still ahead`;
  if ((from ?? to)! > addDays(today, 36_525) || (to ?? from)! < '1880-01-01')
    return `${words} is too far off`;
  return days;
}
