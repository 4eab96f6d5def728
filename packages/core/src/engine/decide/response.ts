import { isKeyword, type HeardCue } from './cueIndex';
import { fold } from '../../language/fold';
import { MATCH_WORDS, cueWords } from '../cues';
import type { Candidate, Decision, Place } from './decision';
import type { PersonFacts } from '../../people/person';
import type { Run } from '../run/run';
import type { Shelf, Standing } from '../run/standing';
import type { Effect, Left, Note } from '../steps';
import type { Turn } from '../run/turn';
import type { World } from '../run/world';

export interface Response {
  /** Null for what is not decided: timers belong to their run, staff do as they please. */
  decision: Decision | null;
  /** Runs that changed. */
  runs: Run[];
  person: PersonFacts;
  standing: Standing;
  effects: Effect[];
  notes: Note[];
  /** The steps that runs have left, in order. */
  trail: Left[];
  /** Null: as it was. */
  shelf: Shelf | null;
}

/** Gathers the answer. The shelf follows from what is under way, unless it is given. */
export function finished(turn: Turn, decision: Decision | null, shelf?: Shelf | null): Response {
  turn.callLater();
  const stopped =
    turn.runs.changed.some((run) => run.status === 'stopped') &&
    !turn.notes.some((note) => note.code === 'consent' || note.code === 'handed back');
  const follows: Shelf =
    turn.standing.held || stopped ? 'waiting on us' : turn.runs.underWay.length > 0 ? 'running' : 'settled';
  return {
    decision,
    runs: turn.runs.changed,
    person: turn.person,
    standing: turn.standing,
    effects: turn.allEffects(),
    notes: turn.notes,
    trail: turn.trail,
    shelf: shelf === undefined ? follows : shelf,
  };
}

export function nothing(world: World): Response {
  return {
    decision: null,
    runs: [],
    person: world.person,
    standing: world.standing,
    effects: [],
    notes: [],
    trail: [],
    shelf: null,
  };
}

export function nobody(turn: Turn, losers: Candidate[], reason: string): Response {
  turn.note({ code: 'nobody', reason });
  return finished(turn, { candidates: [won('nobody', 'nobody', reason), ...losers] }, 'waiting on us');
}

export function won(place: Place, who: string, reason: string): Candidate {
  return { place, who, loopId: null, cueId: null, outcome: 'won', reason };
}

export function runCandidate(
  turn: Turn,
  run: Run,
  place: Place,
  outcome: 'won' | 'lost',
  reason: string,
): Candidate {
  const who = turn.world.version(run.loopId, run.version)?.loop.name ?? 'a loop';
  return { place, who, loopId: run.loopId, cueId: run.cueId, outcome, reason };
}

export function outranked(turn: Turn, reason: string): Candidate[] {
  const run = turn.runs.foremost;
  return run?.at?.for === 'reply' ? [runCandidate(turn, run, 'waiting run can read it', 'lost', reason)] : [];
}

export function passedOver(heard: readonly HeardCue[], reason: string): Candidate[] {
  return heard.map((each) => cueCandidate(each, placeOfCue(each), 'lost', reason));
}

/** Place 2, answered by the program itself; `why` is what everybody else has lost by. */
export const answeredByProgram = (
  turn: Turn,
  heard: readonly HeardCue[],
  reason: string,
  why: string,
): Response =>
  finished(turn, {
    candidates: [
      won('opt-out, opt-in or help word', 'the program itself', reason),
      ...outranked(turn, why),
      ...passedOver(heard, why),
    ],
  });

export function cueCandidate(
  heard: HeardCue,
  place: Place,
  outcome: 'won' | 'lost',
  reason: string,
): Candidate {
  return { place, who: heard.loopName, loopId: heard.loopId, cueId: heard.cue.id, outcome, reason };
}

export const placeOfCue = (heard: HeardCue): Place =>
  heard.cue.kind === 'keyword' && heard.cue.alwaysWins ? 'cue that always wins' : 'other cue';

/** Starts the cue's loop, or lets it go on where it is, as the cue says. */
export function begin(
  turn: Turn,
  heard: HeardCue,
  place: Place,
  lost: Candidate[],
  options: { depth?: number; beside?: boolean } = {},
): Response {
  const { world } = turn;
  const how = heardWords(heard);
  const winner = cueCandidate(heard, place, 'won', how);
  const running = world.runs.find((run) => run.loopId === heard.loopId);
  if (running && heard.cue.whileRunning === 'resume') {
    turn.playing.resume(running);
    return finished(turn, { candidates: [winner, ...lost] });
  }
  turn.words = wordsBeside(turn, heard);
  turn.note({ code: 'cue heard', loop: heard.loopName, how });
  turn.playing.start(world.version(heard.loopId, heard.version)!, heard.cue.id, options);
  return finished(turn, { candidates: [winner, ...lost] });
}

/** What was written beside what the cue waits for, which may ask something; null where that is nothing. */
function wordsBeside({ words }: Turn, heard: HeardCue): string | null {
  if (heard.cue.kind === 'first message' || heard.cue.kind === 'fallback') return words;
  if (!isKeyword(heard) || words === null || heard.match === 'exactly') return null;
  if (fold(words) === heard.folded) return null;
  if (heard.match !== 'first word') return words;
  // The keyword itself asks nothing.
  const ahead = heard.keyword.trim().split(/\s+/).length;
  return words.trim().split(/\s+/).slice(ahead).join(' ') || null;
}

function heardWords(heard: HeardCue): string {
  if (!isKeyword(heard)) return `by ${cueWords(heard.cue)}`;
  return `“${heard.keyword}” was heard ${MATCH_WORDS[heard.match]}${heard.slipped ? ', with a slip of typing forgiven' : ''}`;
}
