import { z } from 'zod';
import type { Exit, WaitingParts } from '../../loops/model/basics';
import { Alert, alert } from './alert';
import { Answer, answer } from './answer';
import { ask } from './ask';
import { Ask } from './askModel';
import { Book, book } from './book';
import { End, end } from './end';
import { Go, go } from './go';
import { HandOver, handOver } from './handOver';
import { Say, say } from './say';
import { SendOut, sendOut } from './sendOut';
import { SetStep, set } from './set';
import { Split, split } from './split';
import type { StepKind } from './step';
import { Vary, vary } from './vary';
import { Wait, wait } from './wait';

/** One line of a scene. A new kind is one file here plus its two lines in this index. */
export const Step = z.discriminatedUnion('kind', [
  Say,
  Ask,
  Wait,
  SetStep,
  Split,
  Vary,
  Go,
  HandOver,
  Alert,
  SendOut,
  Book,
  Answer,
  End,
]);
export type Step = z.infer<typeof Step>;
export type StepKindName = Step['kind'];

export const STEPS: { [K in StepKindName]: StepKind<Extract<Step, { kind: K }>> } = {
  say,
  ask,
  wait,
  set,
  split,
  vary,
  go,
  'hand over': handOver,
  alert,
  'send out': sendOut,
  book,
  answer,
  end,
};

/** The behaviour of a step's kind. */
export function kindOf(step: Step): StepKind<Step> {
  return STEPS[step.kind] as StepKind<Step>;
}

/** Every way out of the step other than to the next one. */
export function exitsOf(step: Step): Exit[] {
  return kindOf(step).exits(step);
}

/** The parts of a step that can wait for the person, or null for one that cannot. */
export function waitingOf(
  step: Step,
): (WaitingParts & { variants?: Record<string, { retry?: string }> }) | null {
  if (step.kind === 'ask' || step.kind === 'book') return step;
  if (step.kind === 'answer') {
    const { reminders, noReply, cancel } = step;
    return { ...(reminders && { reminders }), ...(noReply && { noReply }), ...(cancel && { cancel }) };
  }
  if (step.kind === 'say' && step.choices?.length) return step;
  return null;
}

export type { Alert } from './alert';
export type { Answer } from './answer';
export type { Ask, Option } from './askModel';
export { questionsOf, type Question } from './askReading';
export type { Book } from './book';
export type { HandOver } from './handOver';
export type { Choice, Say } from './say';
export type { SendOut } from './sendOut';
export { changeWords, type Change, type SetStep } from './set';
export type { Split } from './split';
export type * from './step';
export type { Vary } from './vary';
export type { Wait } from './wait';
