import { withNothingTaken } from '../../booking/calendar';
import { CHANNELS } from '../../channels';
import { CheckWorld, clientOf, type Surroundings } from '../check/check';
import { type PathStep } from '../check/paths';
import { pathKey } from '../check/pathWords';
import { waysTaken } from '../check/waysTaken';
import type { ChannelKind, LineFacts } from '../../people/client';
import type { Loop } from '../model/loop';
import { stranger, type PersonFacts } from '../../people/person';
import type { Take, TakePerson } from './take';
import { withLabels, withTakes } from './keepTake';
import { Performance } from '../../engine/rehearsal/performance';
import { openRehearsal, type Rehearsal, type RehearsalEntry } from '../../engine/rehearsal/rehearsal';
import { readScriptLine } from '../../engine/rehearsal/script';

/** One turn of a take as it was kept and as it is played now. */
export interface TakeTurn {
  does: string;
  kept: string[];
  now: string[];
  /** Why the line cannot be played any more; null where it can. */
  cannot: string | null;
}

export interface TakePlayed {
  takeId: string;
  name: string;
  turns: TakeTurn[];
  /** How many turns differ from what was kept. */
  changed: number;
  /** The path it takes through the loop, as {@link pathKey} names it. */
  steps: PathStep[];
}

/**
 * What we did in answer to one line, as a take keeps it: messages as they are seen, and what would have gone
 * elsewhere.
 */
export function oursIn(entries: readonly RehearsalEntry[]): string[] {
  return entries.flatMap((entry) =>
    entry.from === 'us'
      ? [withLabels(entry.text, entry.parts === null ? entry.choices : [])]
      : entry.from === 'outside'
        ? [`(${entry.text})`]
        : [],
  );
}

export function personOfTake({
  id,
  firstName,
  lastName,
  language,
  fields,
  tags,
  lists,
}: TakePerson): PersonFacts {
  return {
    ...stranger(id),
    firstName: firstName ?? null,
    lastName: lastName ?? null,
    language: language ?? null,
    fields: fields ?? {},
    tags: tags ?? [],
    lists: lists ?? [],
  };
}

/** The line a take is played on: the loop's first on that channel, else one that stands for it. */
function lineFor(loop: Loop, channel: Take['channel'], known: Surroundings): LineFacts {
  const own = (known.lines ?? []).filter((line) => line.channel === channel);
  const line = own.find(({ key }) => loop.lines.length === 0 || loop.lines.includes(key)) ?? own[0];
  return line
    ? { ...line, name: line.name ?? line.key }
    : { key: channel, name: CHANNELS[channel].name, channel };
}

/** What a rehearsal begins with. `now` in ms. */
export interface Opening {
  channel: ChannelKind;
  person: PersonFacts;
  now: number;
}

/** A rehearsal of a draft among those of the client's other loops that are live. */
export const rehearsalAmong = (
  loop: Loop,
  known: Surroundings,
  { channel, person, now }: Opening,
): Rehearsal =>
  openRehearsal({
    loops: [loop, ...(known.others ?? []).filter(({ name }) => !known.resting?.includes(name))],
    client: clientOf(known),
    line: lineFor(loop, channel, known),
    person,
    now,
    fields: known.types,
    segments: known.segments,
    lists: known.lists,
    holidays: known.holidays,
    calendars: known.calendars,
  });

/**
 * Plays a take against the loop as it is now, among the client's other loops. Pure: the same loops give the
 * same turns.
 */
export function playTake(
  loop: Loop,
  take: Take,
  known: Surroundings,
  world = new CheckWorld(loop, known),
): TakePlayed {
  // What others have booked changes from day to day, and is no part of the take.
  const unbooked = { ...known, calendars: withNothingTaken(known.calendars ?? []) };
  const performance = new Performance(
    rehearsalAmong(loop, unbooked, {
      channel: take.channel,
      person: personOfTake(take.person),
      now: Date.parse(take.begins),
    }),
  );
  const trail: Parameters<typeof waysTaken>[1][number][] = [];
  const turns = take.turns.map(({ does, ours }): TakeTurn => {
    const line = readScriptLine(does);
    const performed =
      line === null || typeof line === 'string'
        ? ({ kind: 'unusable', reason: line ?? 'it is empty' } as const)
        : performance.perform(line);
    if (performed.kind === 'unusable') return { does, kept: ours, now: [], cannot: performed.reason };
    if (performed.kind === 'played') trail.push(...performed.trail);
    return { does, kept: ours, now: oursIn(performed.entries), cannot: null };
  });
  const run = performance.rehearsal.runs.find((each) => each.loopId === 'loop-1');
  return {
    takeId: take.id,
    name: take.name,
    turns,
    changed: turns.filter(
      (turn) => turn.cannot !== null || turn.kept.join('\u0000') !== turn.now.join('\u0000'),
    ).length,
    steps: run ? waysTaken(world, trail, run.id) : [],
  };
}

/** The loop with a take as it is played now. */
export function acceptTake(loop: Loop, played: TakePlayed): Loop {
  const turns = played.turns
    .filter((turn) => turn.cannot === null)
    .map(({ does, now }) => ({ does, ours: now }));
  const takes = (loop.takes ?? []).flatMap((take) =>
    take.id !== played.takeId ? take : turns.length > 0 ? { ...take, turns } : [],
  );
  return withTakes(loop, takes);
}

/** Whether a take goes all the way of a path. */
export const covers = (played: TakePlayed, path: { steps: PathStep[] }): boolean => {
  const way = pathKey({ steps: played.steps });
  const wanted = pathKey(path);
  return way === wanted || way.startsWith(`${wanted}>`) || lastWaits(path, way);
};

/**
 * A path that ends in a step which is not left has that step at its end; a run has left only those before it.
 */
function lastWaits({ steps }: { steps: PathStep[] }, way: string): boolean {
  const last = steps.at(-1);
  return (
    last?.by === 'itself' &&
    last.words === '' &&
    steps.length > 1 &&
    way === pathKey({ steps: steps.slice(0, -1) })
  );
}
