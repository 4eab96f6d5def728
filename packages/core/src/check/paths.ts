import type { ChannelKind } from '../model/client';
import type { StepPlace } from '../model/loop';
import type { Left, Step } from '../run/steps';
import { waitingOf } from '../run/steps';
import { durationWords } from '../model/basics';
import { priceWords } from '../meter/prices';
import { CHANNELS } from '../channels';
import type { CheckWorld, Found } from './check';
import { timeOf, type Way } from './ways';

/** One step of a path: where, and by what it is left. */
export interface PathStep {
  sceneId: string;
  stepId: string;
  by: Way['by'];
  words: string;
}

/** One way through a loop, from its first step to where it ends. */
export interface LoopPath {
  steps: PathStep[];
  /** How it ends: the run is over; it waits for ever; it comes back to a scene it has been in; another loop takes over. */
  ends: { how: 'end' | 'waits' | 'round' | 'other loop'; words: string };
  /** Messages of ours, and their price in thousandths of a pound, by channel. */
  cost: { channel: ChannelKind; messages: number; price: number }[];
  /** How long it takes at least, in ms; what depends on the day counts nothing. */
  ms: number;
}

export interface Paths {
  paths: LoopPath[];
  /** Null where these are all there are; else why there are not more. */
  cut: string | null;
}

/** More paths than this are not listed. */
const MOST_PATHS = 1_000;
const MOST_STEPS = 400_000;

/**
 * Every path from the first step on: by each choice, each kind of answer, no answer and one that cannot be read, and each
 * outcome of a split. A path that comes to a step it has been at ends there. Where there are too many, the list is cut and
 * says so; then at least one path through every exit is among them.
 */
export function pathsOf(world: CheckWorld): Paths {
  let paths = walked.get(world);
  if (!paths) walked.set(world, (paths = walkAll(world)));
  return paths;
}

const walked = new WeakMap<CheckWorld, Paths>();

function walkAll(world: CheckWorld): Paths {
  const [first] = world.places;
  if (!first) return { paths: [], cut: null };
  const paths: LoopPath[] = [];
  const taken = new Set<string>();
  let steps = 0;
  let cut = false;
  const walk = { trail: [] as { place: StepPlace; way: Way }[], on: new Set<string>() };
  const close = (ends: LoopPath['ends'], last?: StepPlace) => {
    paths.push(pathOf(world, walk.trail, ends, last));
    for (const { place, way } of walk.trail) taken.add(wayKey(place.step, way));
  };
  // Depth first, with a stack of its own.
  const stack: { place: StepPlace; ways: Way[]; next: number }[] = [];
  const enter = (place: StepPlace) => {
    steps++;
    const ways = world.ways(place);
    walk.on.add(place.step.id);
    stack.push({ place, ways, next: 0 });
    if (ways.length === 0) {
      const { step } = place;
      close(
        step.kind === 'go' && step.loop !== undefined
          ? { how: 'other loop', words: `to the loop “${step.loop}”` }
          : waitingOf(step)
            ? { how: 'waits', words: 'waits' }
            : { how: 'end', words: 'the end' },
        place,
      );
    }
  };
  const forward = (place: StepPlace, way: Way) => {
    walk.trail.push({ place, way });
    if (!way.to) {
      close({ how: 'end', words: 'the end' });
      walk.trail.pop();
    } else if (walk.on.has(way.to.step.id)) {
      close({ how: 'round', words: `round to ${way.to.sceneIndex + 1} ${way.to.scene.name}` });
      walk.trail.pop();
    } else enter(way.to);
  };
  enter(first);
  while (stack.length > 0) {
    const here = stack.at(-1)!;
    const way = here.ways[here.next++];
    if (way && paths.length < MOST_PATHS && steps < MOST_STEPS) forward(here.place, way);
    else {
      if (way) cut = true;
      stack.pop();
      walk.on.delete(here.place.step.id);
      walk.trail.pop();
    }
  }
  if (!cut) return { paths, cut: null };
  for (const place of world.places)
    for (const way of world.ways(place)) {
      if (taken.has(wayKey(place.step, way))) continue;
      const trail = through(world, first, place, way);
      if (!trail) continue;
      for (const each of trail.steps) taken.add(wayKey(each.place.step, each.way));
      paths.push(pathOf(world, trail.steps, trail.ends, trail.last));
    }
  return {
    paths,
    cut: `There are more than ${MOST_PATHS.toLocaleString('en-GB')} paths; the first ${MOST_PATHS.toLocaleString('en-GB')} are listed${paths.length > MOST_PATHS ? `, and ${paths.length - MOST_PATHS} more, so that every exit is on one` : ''}.`,
  };
}

const wayKey = (step: Step, way: Way) => `${step.id}|${way.by}|${way.words}|${way.target}`;

/** The shortest path that takes a way, and on from there by the first way of each step; null when nothing leads there. */
function through(world: CheckWorld, first: StepPlace, place: StepPlace, way: Way) {
  const before = new Map<string, { place: StepPlace; way: Way } | null>([[first.step.id, null]]);
  const open = [first];
  for (let at = open.shift(); at && at.step.id !== place.step.id; at = open.shift())
    for (const each of world.ways(at))
      if (each.to && !before.has(each.to.step.id)) {
        before.set(each.to.step.id, { place: at, way: each });
        open.push(each.to);
      }
  if (!before.has(place.step.id)) return null;
  const steps: { place: StepPlace; way: Way }[] = [{ place, way }];
  for (let at = before.get(place.step.id); at; at = before.get(at.place.step.id)) steps.unshift(at);
  const seen = new Set(steps.map((each) => each.place.step.id));
  for (let at = way.to; ;) {
    if (!at) return { steps, ends: { how: 'end' as const, words: 'the end' }, last: undefined };
    if (seen.has(at.step.id))
      return { steps, ends: { how: 'round' as const, words: `round to ${at.sceneIndex + 1} ${at.scene.name}` }, last: undefined };
    seen.add(at.step.id);
    const [next] = world.ways(at);
    if (!next) return { steps, ends: { how: 'end' as const, words: 'the end' }, last: at };
    steps.push({ place: at, way: next });
    at = next.to;
  }
}

function pathOf(world: CheckWorld, trail: { place: StepPlace; way: Way }[], ends: LoopPath['ends'], last?: StepPlace): LoopPath {
  const visits = [...trail, ...(last ? [{ place: last, way: null }] : [])];
  const cost = world.channels.map((line) => {
    let messages = 0;
    let price = 0;
    for (const { place, way } of visits) {
      // What is known already is not asked.
      if (way?.by === 'known already') continue;
      const landed = world.landings(place, line);
      const once = landed.reduce((sum, each) => sum + each.messages.length, 0);
      const dear = landed.reduce((sum, each) => sum + each.price, 0);
      // Asked again as often as the step says.
      const times = way?.by === 'could not read' ? 1 + (waitingOf(place.step)?.retry?.times ?? 0) : 1;
      messages += once * times;
      price += dear * times;
    }
    return { channel: line.channel, messages, price };
  });
  return {
    steps: visits.map(({ place, way }) => ({
      sceneId: place.scene.id,
      stepId: place.step.id,
      by: way?.by ?? 'itself',
      words: way?.words ?? '',
    })),
    ends,
    cost,
    ms: trail.reduce((sum, { place, way }) => sum + timeOf(place.step, way), 0),
  };
}

/** Names a path by the ways it takes. */
export const pathKey = (path: Pick<LoopPath, 'steps'>): string =>
  path.steps.map((step) => `${step.stepId}:${step.by}:${step.words}`).join('>');

/** How a path reads: what was decided on the way, and how it ends. */
export function pathWords({ steps, ends }: LoopPath): string {
  const said = steps.flatMap(({ by, words }) => (by === 'itself' || by === 'go' ? [] : [words]));
  return [...said, ends.words].join(', then ');
}

/** "2 d 3 h" for a time in ms; "at once" for none. */
export function lengthWords(ms: number): string {
  if (ms === 0) return 'at once';
  const units: [number, string][] = [
    [86_400_000, 'd'],
    [3_600_000, 'h'],
    [60_000, 'm'],
    [1_000, 's'],
  ];
  const parts: string[] = [];
  let left = ms;
  for (const [size, unit] of units) {
    const count = Math.floor(left / size);
    if (count > 0) parts.push(durationWords(`${count}${unit}`));
    left -= count * size;
  }
  return parts.slice(0, 2).join(' ');
}

/** The ways that a run has taken, from what it left behind; for the run of the loop that was begun first. */
export function waysTaken(world: CheckWorld, trail: readonly Left[], runId: string): PathStep[] {
  const byId = new Map(world.places.map((place) => [place.step.id, place]));
  return trail.flatMap((left): PathStep[] => {
    const place = left.runId === runId ? byId.get(left.stepId) : undefined;
    if (!place) return [];
    const way = wayTaken(world.ways(place), left);
    return [{ sceneId: place.scene.id, stepId: left.stepId, by: way?.by ?? 'itself', words: way?.words ?? '' }];
  });
}

/** Which of a step's ways was taken: by where it led, and by what was noted on the way. */
function wayTaken(ways: readonly Way[], { to, notes }: Left): Way | undefined {
  const there = ways.filter((way) => way.target === to);
  if (there.length <= 1) return there[0];
  const named = (by: Way['by'], words?: string) =>
    there.find((way) => way.by === by && (words === undefined || way.words === words)) ?? there.find((way) => way.by === by);
  for (const note of notes) {
    const found =
      note.code === 'choice read'
        ? named('choice', note.label)
        : note.code === 'reply read'
          ? (there.find((way) => way.by === 'answer' && way.words === answerWords(note.value)) ??
            there.findLast((way) => way.by === 'answer'))
          : note.code === 'known already'
            ? (named('known already') ?? named('answer'))
            : note.code === 'skipped'
              ? named('skipped')
              : note.code === 'called off'
                ? named('never mind')
                : note.code === 'something else'
                  ? named('something else')
                  : note.code === 'gave up'
                    ? named('could not read')
                    : note.code === 'no reply'
                      ? named('no reply')
                      : note.code === 'hand-over given up'
                        ? named('given up')
                        : note.code === 'nobody on duty'
                          ? named('off duty')
                          : note.code === 'delivered'
                            ? named(note.ok ? 'delivered' : 'not delivered')
                            : note.code === 'split'
                              ? named('condition', note.because)
                              : note.code === 'arm'
                                ? there.find((way) => way.by === 'chance' && way.words.startsWith(`arm ${note.arm},`))
                                : undefined;
    if (found) return found;
  }
  return there.at(-1);
}

const answerWords = (value: { type: string; value: unknown }) =>
  value.type === 'yes/no' ? (value.value ? 'yes' : 'no') : typeof value.value === 'string' ? value.value : '';

export type PathCode = 'long path' | 'dear path';

/** Paths that are longer or dearer than the client's limit; the worst of each. */
export function pathFindings(world: CheckWorld): Found<PathCode>[] {
  if (world.lines.length === 0) return [];
  const { paths } = pathsOf(world);
  const { messages, price } = world.limits;
  const costs = paths.flatMap((path) => path.cost.map((cost) => ({ path, ...cost })));
  const longest = costs.reduce<(typeof costs)[number] | null>(
    (worst, each) => (each.messages > (worst?.messages ?? messages) ? each : worst),
    null,
  );
  const dearest = costs.reduce<(typeof costs)[number] | null>((worst, each) => (each.price > (worst?.price ?? price) ? each : worst), null);
  return [
    ...(longest
      ? [
          {
            code: 'long path' as const,
            severity: 'warns' as const,
            reason: `One path has ${longest.messages} messages on ${CHANNELS[longest.channel].name}, more than the ${messages} that are meant to be the most: ${shortWords(longest.path)}.`,
          },
        ]
      : []),
    ...(dearest
      ? [
          {
            code: 'dear path' as const,
            severity: 'warns' as const,
            reason: `One path costs ${priceWords(dearest.price)} on ${CHANNELS[dearest.channel].name}, more than the ${priceWords(price)} that are meant to be the most: ${shortWords(dearest.path)}.`,
          },
        ]
      : []),
  ];
}

const shortWords = (path: LoopPath) => {
  const words = pathWords(path);
  return words.length > 160 ? `${words.slice(0, 159)}…` : words;
};
