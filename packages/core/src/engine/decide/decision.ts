/** Who answers: the fixed order in which every incoming event is decided. */
export const PLACES = {
  'repeated delivery': 1,
  'opt-out, opt-in or help word': 2,
  'a person has stepped in': 3,
  'tapped choice': 4,
  'cue that always wins': 5,
  'waiting run can read it': 6,
  'other cue': 7,
  'waiting run cannot read it': 8,
  'first message': 9,
  understudy: 10,
  fallback: 11,
  nobody: 12,
} as const;
export type Place = keyof typeof PLACES;

/** One who could have answered, and why it did or did not. */
export interface Candidate {
  place: Place;
  /** Who it is, in words: a loop's name, or "nobody". */
  who: string;
  loopId: string | null;
  cueId: string | null;
  outcome: 'won' | 'lost';
  /** One sentence part without a full stop. */
  reason: string;
}

/**
 * The decision on one event: exactly one candidate has won. Timers are not decided, they belong to their run.
 */
export interface Decision {
  candidates: Candidate[];
}

export function winnerOf(decision: Decision): Candidate {
  const winner = decision.candidates.find((candidate) => candidate.outcome === 'won');
  if (!winner) throw new Error('a decision without a winner');
  return winner;
}
