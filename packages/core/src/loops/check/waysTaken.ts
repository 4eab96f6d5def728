import type { Left, Note } from '../../engine/steps';
import type { CheckWorld } from './check';
import type { PathStep } from './paths';
import type { Way } from './ways';

/** The ways that a run has taken, from what it left behind; for the run of the loop that was begun first. */
export function waysTaken(world: CheckWorld, trail: readonly Left[], runId: string): PathStep[] {
  const byId = new Map(world.places.map((place) => [place.step.id, place]));
  return trail.flatMap((left): PathStep[] => {
    const place = left.runId === runId ? byId.get(left.stepId) : undefined;
    if (!place) return [];
    const way = wayTaken(world.ways(place), left);
    return [
      { sceneId: place.scene.id, stepId: left.stepId, by: way?.by ?? 'itself', words: way?.words ?? '' },
    ];
  });
}

/** The ways that lead to where the run went, among which a note tells which it was. */
interface Candidates {
  there: readonly Way[];
  /** The way of this kind, with these words where there is one. */
  named: (by: Way['by'], words?: string) => Way | undefined;
}

/** Which way a note tells of, for each kind of note that tells of one. */
const WAY_OF_NOTE: {
  [C in Note['code']]?: (note: Extract<Note, { code: C }>, ways: Candidates) => Way | undefined;
} = {
  'choice read': (note, { named }) => named('choice', note.label),
  'reply read': (note, { there }) =>
    there.find((way) => way.by === 'answer' && way.words === answerWords(note.value)) ??
    there.findLast((way) => way.by === 'answer'),
  'known already': (_, { named }) => named('known already') ?? named('answer'),
  skipped: (_, { named }) => named('skipped'),
  'called off': (_, { named }) => named('never mind'),
  'something else': (_, { named }) => named('something else'),
  'does not know': (_, { named }) => named('does not know'),
  'gave up': (_, { named }) => named('could not read'),
  'no reply': (_, { named }) => named('no reply'),
  'hand-over given up': (_, { named }) => named('given up'),
  'nobody on duty': (_, { named }) => named('off duty'),
  delivered: (note, { named }) => named(note.ok ? 'delivered' : 'not delivered'),
  booked: (_, { named }) => named('booked'),
  'booked already': (_, { named }) => named('booked'),
  'times offered': (note, { named }) =>
    note.count === 0 ? (named('nothing free') ?? named('booked')) : undefined,
  'not known': (_, { named }) => named('not known'),
  'wants a person': (_, { named }) => named('wants a person'),
  split: (note, { named }) => named('condition', note.because),
  arm: (note, { there }) =>
    there.find((way) => way.by === 'chance' && way.words.startsWith(`arm ${note.arm},`)),
};

/** Which of a step's ways was taken: by where it led, and by what was noted on the way. */
function wayTaken(ways: readonly Way[], { to, notes }: Left): Way | undefined {
  const there = ways.filter((way) => way.target === to);
  if (there.length <= 1) return there[0];
  const named: Candidates['named'] = (by, words) =>
    there.find((way) => way.by === by && (words === undefined || way.words === words)) ??
    there.find((way) => way.by === by);
  for (const note of notes) {
    const tells = WAY_OF_NOTE[note.code] as ((note: Note, ways: Candidates) => Way | undefined) | undefined;
    const found = tells?.(note, { there, named });
    if (found) return found;
  }
  return there.at(-1);
}

const answerWords = (value: { type: string; value: unknown }) =>
  value.type === 'yes/no' ? (value.value ? 'yes' : 'no') : typeof value.value === 'string' ? value.value : '';
