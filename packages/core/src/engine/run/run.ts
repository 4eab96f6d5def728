import type { Value } from '../../people/person';
import type { Aside, Items } from '../steps';

/**
 * What a run that is under way waits for: the person's reply, a moment, staff, an answer from outside, or a
 * loop that it called.
 */
export type WaitsFor = 'reply' | 'time' | 'person' | 'errand' | 'loop';

/** One person's passage through one version of a loop. Plain data; `at` is null once it is over. */
export interface Run {
  id: string;
  loopId: string;
  version: number;
  cueId: string;
  status: 'under way' | 'finished' | 'replaced' | 'stopped';
  /**
   * The step the run waits at, since when (ms), and for what; from which of its choices on they were shown
   * last, and how many reminders were said.
   */
  at: {
    scene: string;
    step: string;
    for: WaitsFor;
    since: number;
    aside?: Aside;
    from?: number;
    reminded?: number;
  } | null;
  /** Counts every time the run began to wait; a timer set for an earlier turn is stale. */
  turn: number;
  /** How often the waiting step could not read a reply. */
  tries: number;
  /** The steps that were reached, each once; the script's counts are sums of these. */
  reached: string[];
  /** What was answered: by field for questions, by step id for choices. */
  answers: Record<string, Value>;
  /** The steps that went to a scene and are gone on after, the latest last; at which of its items each is. */
  returns?: { step: string; each?: Items & { at: number } }[];
  /** Messages gathered for one answer. */
  gathered: string[];
  /** The run that called this one and goes on when it is over. */
  parent: string | null;
  /** How many loops have started each other up to this one without the person doing anything. */
  depth: number;
}

export function newRun(
  id: string,
  loopId: string,
  version: number,
  cueId: string,
  parent: string | null,
  depth: number,
): Run {
  return {
    id,
    loopId,
    version,
    cueId,
    status: 'under way',
    at: null,
    turn: 0,
    tries: 0,
    reached: [],
    answers: {},
    gathered: [],
    parent,
    depth,
  };
}

/** The timer that belongs to a run; there is one of each at the most. */
export const runTimer = (runId: string) => `run:${runId}`;
export const gatherTimer = (runId: string) => `gather:${runId}`;
