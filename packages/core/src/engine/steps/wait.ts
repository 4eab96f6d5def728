import { z } from 'zod';
import { Duration, FieldKey, LocalId, NEXT, durationMs, durationWords } from '../../loops/model/basics';
import { nextOpening } from '../../time/openings';
import { TimeOfDay, Weekday } from '../../time/clockTime';
import { addDays, instantOf, nextTime } from '../../time/zones';
import { BY_ITSELF, go, type StepKind, type StepWorld } from './step';

const Until = z.union(
  [
    z.object({ time: TimeOfDay }).strict(),
    z.object({ weekdays: z.array(Weekday).min(1).max(7), time: TimeOfDay }).strict(),
    z
      .object({ field: FieldKey, days: z.number().int().min(-365).max(365).default(0), time: TimeOfDay })
      .strict(),
    z.object({ open: z.literal(true) }).strict(),
  ],
  'a wait lasts until { time: "09:00" }, { weekdays: [monday], time: "09:00" }, { field: arrival, days: -1, time: "09:00" } or { open: true }',
);
type Until = z.infer<typeof Until>;

/** Waits for a time, or until a moment by the person's own clock (opening hours: the client's). */
export const Wait = z
  .object({ id: LocalId, kind: z.literal('wait'), for: Duration.optional(), until: Until.optional() })
  .strict()
  .refine(
    (step) => (step.for === undefined) !== (step.until === undefined),
    'a wait has either "for" or "until"',
  );
export type Wait = z.infer<typeof Wait>;

/**
 * The instant to go on at, in ms; null when there is nothing to wait for: the day has gone by or is not
 * known.
 */
function until(until: Until, world: StepWorld): number | null {
  const { now, zone } = world;
  if ('open' in until) return nextOpening(world.client.openingHours, now, world.client.timeZone);
  if ('field' in until) {
    const value = world.person.fields[until.field];
    if (value?.type !== 'date') return null;
    const at = instantOf(addDays(value.value, until.days), until.time, zone);
    return at > now ? at : null;
  }
  return nextTime(now, zone, until.time, 'weekdays' in until ? until.weekdays : undefined);
}

export const wait: StepKind<Wait> = {
  enter(step, play) {
    const { now, zone } = play.world;
    const at = step.for ? now + durationMs(step.for) : until(step.until!, play.world);
    if (at === null || at <= now) return go(NEXT);
    play.note({ code: 'waits', until: at, zone });
    return { kind: 'wait', for: 'time', until: at };
  },
  exits: () => [],
  fallsTo: () => BY_ITSELF,
  texts: () => [],
  words(step) {
    if (step.for) return durationWords(step.for);
    const when = step.until!;
    if ('open' in when) return 'until it is open';
    if ('field' in when) {
      const days = Math.abs(when.days);
      const offset =
        when.days === 0
          ? ''
          : `${days} ${days === 1 ? 'day' : 'days'} ${when.days < 0 ? 'before' : 'after'} `;
      return `until ${offset}the day in ${when.field.replaceAll('_', ' ')}, ${when.time}`;
    }
    const names =
      'weekdays' in when
        ? `${when.weekdays.map((day) => day[0]!.toUpperCase() + day.slice(1)).join(' or ')}, `
        : '';
    return `until ${names}${when.time}`;
  },
};
