import { durationMs, type Target } from '../../loops/model/basics';
import { findScene, type LoopVersion, type StepPlace } from '../../loops/model/loop';
import { runTimer, type Run } from './run';
import { waitingOf, type Outcome } from '../steps';
import { isErrand } from '../steps/effects';
import { silenceOver } from './silence';
import type { Turn } from './turn';

/** Where a target leads after a step; a scene that is missing is noted, and is the end. */
export function placeOf(
  turn: Turn,
  { loop }: LoopVersion,
  target: Target,
  after: StepPlace | null,
): StepPlace | 'end' {
  if (target === 'end') return 'end';
  const sceneIndex = target === 'next' ? (after?.sceneIndex ?? 0) : (findScene(loop, target)?.index ?? -1);
  const stepIndex = target === 'next' ? (after?.stepIndex ?? -1) + 1 : 0;
  const scene = loop.scenes[sceneIndex];
  if (!scene) {
    turn.note({ code: 'unusable', reason: `the scene “${target}” is missing` });
    return 'end';
  }
  // A scene that runs out of steps is the end; scenes follow each other only by a target.
  const step = scene.steps[stepIndex];
  return step ? { scene, sceneIndex, step, stepIndex } : 'end';
}

/** Makes a run wait, as the step's outcome says: for a reply, a person, a time or an answer. */
export function waitHere(
  turnOf: Turn,
  run: Run,
  { scene, step }: StepPlace,
  outcome: Extract<Outcome, { kind: 'wait' }>,
  tries: number,
): void {
  const turn = run.turn + 1;
  const { now } = turnOf.world;
  const isSameQuestion = run.at?.step === step.id && outcome.for === 'reply' && !outcome.afresh;
  // One conversation, one voice: whoever was waiting for the person or for staff gives way.
  if (outcome.for === 'reply' || outcome.for === 'person')
    for (const other of turnOf.runs.underWay)
      if (other.id !== run.id && (other.at?.for === 'reply' || other.at?.for === 'person'))
        turnOf.runs.giveWay(other);
  turnOf.runs.keep({
    ...run,
    turn,
    // A question about the answer is not a fresh beginning.
    tries: outcome.for === 'reply' && outcome.aside && isSameQuestion ? Math.max(tries, run.tries) : tries,
    at: {
      scene: scene.id,
      step: step.id,
      for: outcome.for,
      since: (outcome.for === 'reply' && outcome.since) || now,
      ...(outcome.for === 'reply' && outcome.reminded && { reminded: outcome.reminded }),
      ...(outcome.for === 'reply' && outcome.aside && { aside: outcome.aside }),
      ...(outcome.for === 'reply' && outcome.from && { from: outcome.from }),
    },
  });
  turnOf.runs.stands(turnOf.runs.get(run.id)!, true);
  const due =
    outcome.for === 'time'
      ? outcome.until
      : outcome.for === 'person'
        ? step.kind === 'hand over' && step.giveUp
          ? now + durationMs(step.giveUp.after)
          : null
        : outcome.for === 'reply'
          ? silenceOver(waitingOf(step), outcome, now)
          : null;
  const key = runTimer(run.id);
  if (due === null) turnOf.dropTimer(key);
  else turnOf.setTimer(key, due, { kind: 'timer', runId: run.id, turn, what: 'run' });
  for (const effect of turnOf.effects)
    if (isErrand(effect) && effect.turn === 0 && effect.at.runId === run.id && effect.at.stepId === step.id)
      effect.turn = turn;
}
