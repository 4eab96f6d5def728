import { z } from 'zod';
import type { Exit, WaitingParts } from '../../model/basics';
import { Ask, ask } from './ask';
import { End, end } from './end';
import { Go, go } from './go';
import { Say, say } from './say';
import { SetStep, set } from './set';
import type { StepKind } from './step';

/** One line of a scene. A new kind is one file here plus its two lines in this index. */
export const Step = z.discriminatedUnion('kind', [Say, Ask, SetStep, Go, End]);
export type Step = z.infer<typeof Step>;
export type StepKindName = Step['kind'];

export const STEPS: { [K in StepKindName]: StepKind<Extract<Step, { kind: K }>> } = { say, ask, set, go, end };

/** The behaviour of a step's kind. */
export function kindOf(step: Step): StepKind<Step> {
  return STEPS[step.kind] as StepKind<Step>;
}

/** Every way out of the step other than to the next one. */
export function exitsOf(step: Step): Exit[] {
  return kindOf(step).exits(step);
}

/** The parts of a step that can wait for the person, or null for one that cannot. */
export function waitingOf(step: Step): WaitingParts | null {
  if (step.kind === 'ask') return step;
  if (step.kind === 'say' && step.choices?.length) return step;
  return null;
}

export type { Ask } from './ask';
export type { Choice, Say } from './say';
export type { Change, SetStep } from './set';
export type { Effect, Note, Outcome, Play, Reply, Said, StepKind, StepWorld } from './step';
