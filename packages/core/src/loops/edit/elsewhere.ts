import type { Condition } from '../../people/condition';
import { CHANNELS } from '../../channels';
import type { Loop } from '../model/loop';

/** A line as it is told from the others of its client. */
export interface LineThere {
  key: string;
  channel: string;
}

/**
 * What another client calls a line, by its key here: the keys of its lines of the same channel, in their
 * order. Empty where it has none of that channel.
 */
export function linesElsewhere(
  here: readonly LineThere[],
  there: readonly LineThere[],
): (key: string) => string[] {
  return (key) => {
    const channel = here.find((line) => line.key === key)?.channel;
    return there.filter((line) => line.channel === channel).map((line) => line.key);
  };
}

/**
 * A loop as another client gets it: with that client's lines, without the conversations that were kept as
 * tests (they are of people of this one), without whom its alerts go to (they are told of people of this one)
 * and without what was accepted here. A line that has no counterpart
 * stays as it is named here, so that it is found and chosen, and never becomes every line.
 */
export function loopElsewhere(loop: Loop, elsewhere: (key: string) => string[]): Loop {
  const { takes: _takes, accepted: _accepted, ...rest } = loop;
  const lines = (keys: readonly string[]) => [
    ...new Set(keys.flatMap((key) => (elsewhere(key).length > 0 ? elsewhere(key) : [key]))),
  ];
  const when = (condition: Condition) => conditionElsewhere(condition, elsewhere);
  return {
    ...rest,
    lines: lines(loop.lines),
    cues: loop.cues.map((cue) => ({
      ...cue,
      ...(cue.lines && { lines: lines(cue.lines) }),
      ...(cue.who && { who: when(cue.who) }),
    })),
    scenes: loop.scenes.map((scene) => ({
      ...scene,
      steps: scene.steps.map((step) =>
        step.kind === 'split'
          ? { ...step, arms: step.arms.map((arm) => ({ ...arm, when: when(arm.when) })) }
          : step.kind === 'alert'
            ? { ...step, to: [] }
            : step,
      ),
    })),
  };
}

/** A condition as another client gets it: with the first line of the same channel there. */
export function conditionElsewhere(condition: Condition, elsewhere: (key: string) => string[]): Condition {
  const line = (key: string | undefined) =>
    key === undefined || key === 'any' || key in CHANNELS ? key : (elsewhere(key)[0] ?? key);
  const { all, any, not } = condition;
  const within = (each: Condition) => conditionElsewhere(each, elsewhere);
  const named = Object.fromEntries(
    (['line', 'reach', 'optedIn', 'optedOut'] as const).flatMap((subject) =>
      condition[subject] === undefined ? [] : [[subject, line(condition[subject])]],
    ),
  );
  return {
    ...condition,
    ...named,
    ...(all && { all: all.map(within) }),
    ...(any && { any: any.map(within) }),
    ...(not && { not: within(not) }),
  };
}

/** What in a loop is only this client's and has to be chosen anew elsewhere; in words. */
export function ownIn(loop: Loop): string[] {
  const alerts = loop.scenes.some(({ steps }) => steps.some(({ kind }) => kind === 'alert'));
  return [...new Set(loop.cues.flatMap(ownInCue)), ...(alerts ? ['whom its alerts go to'] : [])];
}

/** Posts, ads and forms are named by their ids. */
function ownInCue(cue: Loop['cues'][number]): string[] {
  if (cue.kind === 'comment' && Array.isArray(cue.posts)) return ['the posts it listens under'];
  if (cue.kind === 'ad click' && cue.ads) return ['the ads it listens to'];
  if (cue.kind === 'lead form') return ['the lead forms it listens to'];
  return [];
}
