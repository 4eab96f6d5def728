import { z } from 'zod';
import { END, LocalId } from '../../loops/model/basics';
import { go, type StepKind } from './step';

/** Ends the run here. */
export const End = z.object({ id: LocalId, kind: z.literal('end') }).strict();
export type End = z.infer<typeof End>;

export const end: StepKind<End> = {
  enter: () => go(END),
  exits: () => [],
  fallsTo: () => [],
  texts: () => [],
  words: () => 'the run ends here',
};
