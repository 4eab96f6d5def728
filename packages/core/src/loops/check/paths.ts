import type { ChannelKind } from '../../people/client';
import type { StepPlace } from '../model/loop';
import type { Step } from '../../engine/steps';
import { waitingOf } from '../../engine/steps';
import { alwaysVisits, returns } from '../../engine/steps/go';
import type { CheckWorld } from './check';
import { placeAfter, timeOf, type Way } from './ways';

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
  /**
   * How it ends: the run is over; it waits for ever; it comes back to a scene it has been in; another loop
   * takes over.
   */
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
 * Every path from the first step on: by each choice, each kind of answer, no answer and one that cannot be
 * read, and each outcome of a split. A path that comes to a step it has been at ends there. Where there are
 * too many, the list is cut and says so; then at least one path through every exit is among them.
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
  const book = new WayBook(world);
  const paths: LoopPath[] = [];
  const taken = new Set<BookedWay>();
  // Depth first, with a stack of its own; `trail` is the path so far, `sums` what it costs up to each of its
  // steps.
  const stack: { place: StepPlace; ways: BookedWay[]; next: number }[] = [];
  const trail: PathStep[] = [];
  const on = new Set<string>();
  const sums: Sum[] = [book.nothing];
  const open: { way: BookedWay; closed: boolean }[] = [];
  // The steps that went to a scene and are gone on after, as they are at each step of the trail.
  const visits: (Visit | null)[] = [null];
  let steps = 0;
  let cut = false;

  const close = (ends: LoopPath['ends']) => {
    paths.push(book.path(trail.slice(), sums.at(-1)!, ends));
    for (let at = open.length - 1; at >= 0 && !open[at]!.closed; at--) {
      open[at]!.closed = true;
      taken.add(open[at]!.way);
    }
  };
  const take = (way: BookedWay, place: StepPlace) => {
    trail.push(way.step);
    sums.push(book.added(sums.at(-1)!, way));
    open.push({ way, closed: false });
    const before = visits.at(-1)!;
    visits.push(returns(place.step) && way.step.by === 'go' ? { from: place, before } : before);
  };
  const back = () => {
    trail.pop();
    sums.pop();
    open.pop();
    visits.pop();
  };
  /** Where a way leads: at the end of a scene that was gone to, on after the step that went there. */
  const next = ({ to, runsOut }: BookedWay): StepPlace | null => {
    let place = to;
    for (let visit = visits.at(-1) ?? null; !place && runsOut && visit; visit = visit.before) {
      visits[visits.length - 1] = visit.before;
      place = placeAfter(world.loop, visit.from, 'next');
    }
    return place;
  };
  const enter = (place: StepPlace) => {
    steps++;
    const ways = alwaysVisits(place.step)
      ? book.ways(place).filter(({ step }) => step.by === 'go')
      : book.ways(place);
    on.add(place.step.id);
    stack.push({ place, ways, next: 0 });
    if (ways.length > 0) return;
    take(book.last(place), place);
    close(endAt(place.step));
    back();
  };
  enter(first);
  while (stack.length > 0) {
    const here = stack.at(-1)!;
    const way = here.ways[here.next++];
    if (way && paths.length < MOST_PATHS && steps < MOST_STEPS) {
      take(way, here.place);
      const to = next(way);
      if (to && !on.has(to.step.id)) {
        enter(to);
        continue;
      }
      close(to ? roundTo(to) : THE_END);
      back();
    } else {
      if (way) cut = true;
      stack.pop();
      on.delete(here.place.step.id);
      if (stack.length > 0) back();
    }
  }
  if (!cut) return { paths, cut: null };
  paths.push(...throughTheRest(book, world.places, taken));
  const listed = MOST_PATHS.toLocaleString('en-GB');
  return {
    paths,
    cut: `There are more than ${listed} paths; the first ${listed} are listed${paths.length > MOST_PATHS ? `, and ${paths.length - MOST_PATHS} more, so that every exit is on one` : ''}.`,
  };
}

/** A path through every exit that none was found through yet, the soonest from the first step on. */
function throughTheRest(book: WayBook, places: readonly StepPlace[], taken: Set<BookedWay>): LoopPath[] {
  const paths: LoopPath[] = [];
  const before = soonest(book, places[0]!);
  for (const place of places)
    for (const way of book.ways(place)) {
      const found = taken.has(way) ? null : through(book, before, place, way);
      if (!found) continue;
      for (const each of found.ways) taken.add(each);
      const sum = found.ways.reduce((so, each) => book.added(so, each), book.nothing);
      const steps = found.ways.map(({ step }) => step);
      paths.push(book.path(steps, sum, found.ends));
    }
  return paths;
}

const THE_END: LoopPath['ends'] = { how: 'end', words: 'the end' };
const roundTo = (place: StepPlace): LoopPath['ends'] => ({
  how: 'round',
  words: `round to ${place.sceneIndex + 1} ${place.scene.name}`,
});

function endAt(step: Step): LoopPath['ends'] {
  if (step.kind === 'go' && step.loop !== undefined)
    return { how: 'other loop', words: `to the loop “${step.loop}”` };
  return waitingOf(step) ? { how: 'waits', words: 'waits' } : THE_END;
}

/**
 * A way with the step of a path that it makes, and what it costs on each channel. One object each, however
 * many paths take it.
 */
interface BookedWay {
  step: PathStep;
  to: StepPlace | null;
  /** It leads to the end of its scene, not to that of the loop. */
  runsOut: boolean;
  messages: number[];
  price: number[];
  ms: number;
}
interface Sum {
  messages: number[];
  price: number[];
  ms: number;
}

/** A step that went to a scene and is gone on after; before it others may have. */
interface Visit {
  from: StepPlace;
  before: Visit | null;
}

/** The ways of a loop, each worked out once. */
class WayBook {
  readonly nothing: Sum;
  readonly #ways = new Map<string, BookedWay[]>();
  constructor(readonly world: CheckWorld) {
    const none = world.channels.map(() => 0);
    this.nothing = { messages: none, price: none, ms: 0 };
  }

  ways(place: StepPlace): BookedWay[] {
    let ways = this.#ways.get(place.step.id);
    if (!ways)
      this.#ways.set(place.step.id, (ways = this.world.ways(place).map((way) => this.#book(place, way))));
    return ways;
  }

  /** A step that is not left. */
  last(place: StepPlace): BookedWay {
    return this.#book(place, null);
  }

  added(sum: Sum, { messages, price, ms }: BookedWay): Sum {
    return {
      messages: sum.messages.map((count, at) => count + messages[at]!),
      price: sum.price.map((count, at) => count + price[at]!),
      ms: sum.ms + ms,
    };
  }

  path(steps: PathStep[], { messages, price, ms }: Sum, ends: LoopPath['ends']): LoopPath {
    const cost = this.world.channels.map(({ channel }, at) => ({
      channel,
      messages: messages[at]!,
      price: price[at]!,
    }));
    return { steps, ends, cost, ms };
  }

  #book(place: StepPlace, way: Way | null): BookedWay {
    // What is known already is not asked; what cannot be read is asked again as often as the step says, and
    // whoever does not reply is reminded.
    const times =
      way?.by === 'known already'
        ? 0
        : way?.by === 'could not read'
          ? 1 + (waitingOf(place.step)?.retry?.times ?? 0)
          : way?.by === 'no reply'
            ? 1 + (waitingOf(place.step)?.reminders?.length ?? 0)
            : 1;
    const landed = this.world.channels.map((line) => this.world.landings(place, line));
    return {
      step: {
        sceneId: place.scene.id,
        stepId: place.step.id,
        by: way?.by ?? 'itself',
        words: way?.words ?? '',
      },
      to: way?.to ?? null,
      runsOut: way !== null && !way.to && way.target !== 'end',
      messages: landed.map((all) => times * all.reduce((sum, each) => sum + each.messages.length, 0)),
      price: landed.map((all) => times * all.reduce((sum, each) => sum + each.price, 0)),
      ms: way ? timeOf(place.step, way) : 0,
    };
  }
}

type Before = ReadonlyMap<string, { from: string; way: BookedWay } | null>;

/** By which way each step is reached soonest. */
function soonest(book: WayBook, first: StepPlace): Before {
  const before = new Map<string, { from: string; way: BookedWay } | null>([[first.step.id, null]]);
  const open = [first];
  for (const at of open)
    for (const way of book.ways(at))
      if (way.to && !before.has(way.to.step.id)) {
        before.set(way.to.step.id, { from: at.step.id, way });
        open.push(way.to);
      }
  return before;
}

/**
 * The shortest path that takes a way, and on from there by the first way of each step; null when nothing
 * leads there.
 */
function through(
  book: WayBook,
  before: Before,
  place: StepPlace,
  way: BookedWay,
): { ways: BookedWay[]; ends: LoopPath['ends'] } | null {
  if (!before.has(place.step.id)) return null;
  const ways = [way];
  for (let at = before.get(place.step.id); at; at = before.get(at.from)) ways.unshift(at.way);
  const seen = new Set(ways.map((each) => each.step.stepId));
  for (let at = way.to; at;) {
    if (seen.has(at.step.id)) return { ways, ends: roundTo(at) };
    seen.add(at.step.id);
    const [next] = book.ways(at);
    ways.push(next ?? book.last(at));
    if (!next) return { ways, ends: endAt(at.step) };
    at = next.to;
  }
  return { ways, ends: THE_END };
}
