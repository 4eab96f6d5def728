import { CHANNELS } from '../../../channels';
import { durationMs, durationWords } from '../../model/basics';
import { waitingOf, type Step } from '../../../engine/steps';
import { check, type CheckWorld, type Placed } from '../check';
import { timeOf } from '../ways';

/**
 * What is said when the channel's reply window has shut: after a long wait, or where nobody has replied for
 * long.
 */
export const windows = check<'window shut' | 'late reminder' | 'held after a comment'>(function* (world) {
  const narrow = world.channels.flatMap((line) => {
    const { window, name } = CHANNELS[line.channel];
    return window ? [{ name, window: window.loop }] : [];
  });
  const shortest = Math.min(...narrow.map(({ window }) => window));
  if (narrow.length > 0)
    for (const [id, since] of sinceHeard(world, shortest)) {
      const place = world.places.find(({ step }) => step.id === id)!;
      const { step, where, at } = place;
      for (const { after } of waitingOf(step)?.reminders ?? []) {
        const total = since.ms + durationMs(after);
        const shut = narrow.filter(({ window }) => total >= window).map(({ name }) => name);
        if (shut.length > 0)
          yield {
            ...at,
            code: 'late reminder',
            severity: 'warns',
            about: after,
            reason: `The reminder after ${durationWords(after)} in ${where} comes when ${shut.join(' and ')} ${shut.length === 1 ? 'lets' : 'let'} the line write no more: there it is left out. Remind sooner, or there not at all.`,
          };
      }
      if (since.ms < shortest || !says(step) || (step.kind === 'say' && step.whenShut)) continue;
      const names = narrow.filter(({ window }) => since.ms >= window).map(({ name }) => name);
      yield {
        ...at,
        code: 'window shut',
        severity: 'warns',
        about: names.join(),
        reason: `The ${step.kind} in ${where} may come ${durationWords(inHours(since.ms))} after the person was last heard, and ${names.join(' and ')} ${names.length === 1 ? 'lets' : 'let'} a line write for ${durationWords(inHours(shortest))} only: there it is held until they write. Wait for less, or say what becomes of it instead.`,
        ...(since.after && { fix: shorterFix(since.after, shortest) }),
      };
    }
  const held = secondAfterComment(world);
  if (held)
    yield {
      ...held.at,
      code: 'held after a comment',
      severity: 'warns',
      reason: `After a comment only the first message of ${held.where} goes out; what comes after it is held until the person writes. Let the first one ask something.`,
    };
});

const says = (step: Step) =>
  step.kind === 'say' ||
  step.kind === 'ask' ||
  step.kind === 'book' ||
  (step.kind === 'answer' && step.text !== undefined);
const inHours = (ms: number) => `${Math.round(ms / 3_600_000)}h`;

function shorterFix(step: Step, within: number) {
  const short = `${Math.floor(within / 3_600_000) - 1}h`;
  const path = step.kind === 'wait' ? ['for'] : ['noReply', 'after'];
  return {
    words: `Wait ${durationWords(short)} instead`,
    edits: [{ edit: 'step' as const, stepId: step.id, path, value: short }],
  };
}

/** Going round adds time without end; after so many rounds it does not matter any more. */
const MOST_ROUNDS = 50;

/**
 * The longest time (ms) for which the person may not have been heard when a step is reached, counted from
 * their last reply; with the step that waits for more than the shortest of windows by itself, where one does.
 * Waits until a day are not counted.
 */
function sinceHeard(world: CheckWorld, shortest: number): Map<string, { ms: number; after: Step | null }> {
  const longest = new Map<string, { ms: number; after: Step | null }>();
  const [first] = world.places;
  if (!first) return longest;
  longest.set(first.step.id, { ms: 0, after: null });
  const byId = new Map(world.places.map((place) => [place.step.id, place]));
  const open: string[] = [first.step.id];
  const risen = new Map<string, number>();
  // Going round only adds; beyond a month more does not matter.
  const most = 31 * 86_400_000;
  while (open.length > 0) {
    const id = open.pop()!;
    const place = byId.get(id)!;
    const here = longest.get(id)!;
    for (const way of world.ways(place)) {
      if (!way.to) continue;
      const heard =
        waitingOf(place.step) !== null &&
        way.by !== 'no reply' &&
        way.by !== 'known already' &&
        way.by !== 'itself'
          ? 0
          : Math.min(most, here.ms + timeOf(place.step, way));
      const before = longest.get(way.to.step.id);
      if (before && before.ms >= heard) continue;
      const times = (risen.get(way.to.step.id) ?? 0) + 1;
      if (times > MOST_ROUNDS) continue;
      risen.set(way.to.step.id, times);
      const own = timeOf(place.step, way);
      longest.set(way.to.step.id, {
        ms: heard,
        after: heard === 0 ? null : own >= shortest ? place.step : here.after,
      });
      open.push(way.to.step.id);
    }
  }
  return longest;
}

/** A comment is answered with one message; where the loop says two before it waits, the second is held. */
function secondAfterComment({ loop, places }: CheckWorld): Placed | null {
  if (!loop.cues.some((cue) => cue.kind === 'comment')) return null;
  const opening = places.filter(({ sceneIndex }) => sceneIndex === 0);
  const first = opening.findIndex(({ step }) => says(step));
  if (first < 0 || waitingOf(opening[first]!.step)) return null;
  return opening.slice(first + 1).find(({ step }) => says(step)) ?? null;
}
