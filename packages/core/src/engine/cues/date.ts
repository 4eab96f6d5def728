import { z } from 'zod';
import { FieldKey } from '../../loops/model/basics';
import { TimeOfDay } from '../../time/clockTime';
import { addDays, instantOf, localTime, nextAnniversary } from '../../time/zones';
import { cueParts } from './cue';

/**
 * The day in a date field comes, moved by `days` (negative: before it), at a time of day by the person's own
 * clock.
 */
export const DateCue = z
  .object({
    ...cueParts,
    kind: z.literal('date'),
    field: FieldKey,
    days: z.number().int('days are whole').min(-365).max(365).default(0),
    at: TimeOfDay,
    /** Every year again, as for a birthday. */
    yearly: z.boolean().optional(),
  })
  .strict();
export type DateCue = z.infer<typeof DateCue>;

export function dateWords(cue: DateCue): string {
  const days = Math.abs(cue.days);
  const offset =
    cue.days === 0 ? 'on' : `${days} ${days === 1 ? 'day' : 'days'} ${cue.days < 0 ? 'before' : 'after'}`;
  return `${offset} the day in ${cue.field.replaceAll('_', ' ')}${cue.yearly ? ', every year' : ''}, at ${cue.at}`;
}

/**
 * When the cue falls due next after `now`, in ms; null when it has gone by for good. `value` is YYYY-MM-DD;
 * the yearly 29 February is kept on the 28th in other years; a time that the clocks skip comes as much later
 * as they go on.
 */
export function dateDue(
  cue: Pick<DateCue, 'days' | 'at' | 'yearly'>,
  value: string,
  now: number,
  zone: string,
): number | null {
  const due = (date: string) => instantOf(addDays(date, cue.days), cue.at, zone);
  if (!cue.yearly) return due(value) > now ? due(value) : null;
  // A moved day can fall into the year before or after the day it belongs to.
  const from = addDays(localTime(now, zone).date, -Math.abs(cue.days) - 1);
  for (
    let date = nextAnniversary(value, from), tries = 0;
    tries < 4;
    tries++, date = nextAnniversary(value, addDays(date, 1))
  )
    if (due(date) > now) return due(date);
  return null;
}
