import { durationMs, type Target } from '../model/basics';
import { findScene, findStep, targetWords, type LoopVersion } from '../model/loop';
import type { PersonFacts, Value } from '../model/person';
import { merge } from '../words/merge';
import { choiceRef } from './choiceRef';
import { kindOf, waitingOf, type Effect, type Note, type Play, type Reply, type StepWorld } from './steps';

/** One person's passage through one version of a loop. Plain data; `at` is null once it is over. */
export interface Run {
  id: string;
  loopId: string;
  version: number;
  cueId: string;
  status: 'under way' | 'finished' | 'replaced' | 'stopped';
  /** The step the run waits at. */
  at: { scene: string; step: string } | null;
  /** Counts every time the run began to wait; a timer set for an earlier turn is stale. */
  turn: number;
  /** How often the waiting step could not read a reply. */
  tries: number;
  /** How many people's steps were reached, by step id; the script's counts are sums of these. */
  reached: string[];
}

/** What a move of the engine gives back; nothing that came in is changed. */
export interface Moved {
  run: Run;
  person: PersonFacts;
  effects: Effect[];
  notes: Note[];
}

/** More steps than this without waiting for the person is a circle. */
const MOST_STEPS_WITHOUT_WAITING = 200;

function newRun({ loopId, version }: LoopVersion, id: string, cueId: string): Run {
  return { id, loopId, version, cueId, status: 'under way', at: null, turn: 0, tries: 0, reached: [] };
}

/** Starts a run at the loop's first scene. */
export function startRun(version: LoopVersion, world: StepWorld, person: PersonFacts, id: string, cueId: string): Moved {
  const run = newRun(version, id, cueId);
  return move(version, world, person, run, (mover) => mover.enterScene(version.loop.scenes[0]?.id ?? 'end'));
}

/** Starts a new run from one choice of a step, for a tap that came after its run was over or had moved on. */
export function restartFromChoice(
  version: LoopVersion,
  world: StepWorld,
  person: PersonFacts,
  id: string,
  cueId: string,
  stepId: string,
  choiceId: string,
): Moved | null {
  const reading = readAt(version, stepId, { kind: 'choice', choiceId }, world);
  if (!reading?.ok) return null;
  const run = newRun(version, id, cueId);
  return move(version, world, person, run, (mover) => mover.after(stepId, reading.take(mover.play)));
}

/** Whether the run waits at a step that can read the reply; null when it does not wait at all. */
export function readable(version: LoopVersion, run: Run, reply: Reply, world: StepWorld) {
  return run.at && run.status === 'under way' ? readAt(version, run.at.step, reply, world) : null;
}

function readAt(version: LoopVersion, stepId: string, reply: Reply, world: StepWorld) {
  const place = findStep(version.loop, stepId);
  if (!place) return null;
  return kindOf(place.step).read?.(place.step, reply, world) ?? null;
}

/** Plays a reply that the waiting step can read. Throws when it cannot: ask {@link readable} first. */
export function takeReply(version: LoopVersion, world: StepWorld, person: PersonFacts, run: Run, reply: Reply): Moved {
  const reading = readable(version, run, reply, world);
  const stepId = run.at?.step;
  if (!reading?.ok || !stepId) throw new Error('takeReply was called for a reply that the run cannot read');
  return move(version, world, person, run, (mover) => mover.after(stepId, reading.take(mover.play)));
}

/**
 * Plays a reply that the waiting step could not read: asks again in the step's retry wording, and after the last
 * retry takes the exit. Returns null when the step has neither, so that the conversation waits for a person.
 */
export function retryOrExit(version: LoopVersion, world: StepWorld, person: PersonFacts, run: Run, reason: string): Moved | null {
  const place = run.at && findStep(version.loop, run.at.step);
  const waiting = place && waitingOf(place.step);
  if (!place || !waiting) return null;
  const tries = run.tries + 1;
  const most = waiting.retry?.times ?? 0;
  if (waiting.retry && tries <= most) {
    const retry = waiting.retry;
    return move(version, world, person, { ...run, tries }, (mover) => {
      mover.play.note({ code: 'could not read', reason, tries, of: most });
      mover.play.say(retry.text, place.step.kind === 'say' ? place.step.choices : undefined);
      mover.wait(place.step.id, tries);
    });
  }
  const exit = waiting.otherwise;
  if (!exit) return null;
  return move(version, world, person, run, (mover) => {
    mover.play.note({ code: 'could not read', reason, tries, of: most });
    mover.play.note({ code: 'gave up', to: targetWords(version.loop, exit) });
    mover.after(place.step.id, { kind: 'go', to: exit });
  });
}

/** Plays a timer: the exit "no reply in …" of the step the run waits at. Null when the timer is stale. */
export function timeOut(version: LoopVersion, world: StepWorld, person: PersonFacts, run: Run, turn: number): Moved | null {
  const place = run.at && findStep(version.loop, run.at.step);
  const noReply = place && waitingOf(place.step)?.noReply;
  if (run.status !== 'under way' || run.turn !== turn || !noReply) return null;
  return move(version, world, person, run, (mover) => {
    mover.play.note({ code: 'no reply', after: noReply.after, to: targetWords(version.loop, noReply.to) });
    mover.after(place.step.id, { kind: 'go', to: noReply.to });
  });
}

interface Mover {
  play: Play;
  enterScene(target: Target): void;
  after(stepId: string, outcome: { kind: 'wait' } | { kind: 'go'; to: Target }): void;
  wait(stepId: string, tries: number): void;
}

function move(version: LoopVersion, world: StepWorld, personBefore: PersonFacts, runBefore: Run, first: (mover: Mover) => void): Moved {
  const { loop } = version;
  const run: Run = { ...runBefore, reached: [...runBefore.reached] };
  const person: PersonFacts = { ...personBefore, fields: { ...personBefore.fields }, tags: [...personBefore.tags] };
  const effects: Effect[] = [];
  const notes: Note[] = [];
  let current = run.at?.step ?? '';

  const mergeWorld = { client: world.client, line: world.line, person };
  const play: Play = {
    world,
    person,
    merge: (text) => merge(text, mergeWorld),
    where: (target) => targetWords(loop, target),
    say(text, choices = []) {
      const said = {
        text: merge(text, mergeWorld),
        choices: choices.map(({ id, label }) => ({
          ref: choiceRef({ runId: run.id, stepId: current, choiceId: id }),
          label: merge(label, mergeWorld),
        })),
      };
      if (said.text.trim() || said.choices.length > 0) effects.push({ kind: 'send', said, stepId: current });
    },
    setField(field, after) {
      const before: Value | null = person.fields[field] ?? null;
      person.fields[field] = after;
      effects.push({ kind: 'set field', field, before, after, stepId: current });
    },
    tag(tag, on) {
      if (person.tags.includes(tag) === on) return;
      person.tags = on ? [...person.tags, tag].sort() : person.tags.filter((other) => other !== tag);
      effects.push({ kind: 'tag', tag, on, stepId: current });
    },
    note: (note) => void notes.push(note),
  };

  /** The next place to play: a scene and a step within it, or the end. */
  let next: { scene: number; step: number } | 'end' | 'waiting' = 'end';
  const scenePlace = (target: Target, after: { scene: number; step: number }): typeof next => {
    if (target === 'end') return 'end';
    if (target === 'next') return { scene: after.scene, step: after.step + 1 };
    const found = findScene(loop, target);
    if (found) return { scene: found.index, step: 0 };
    notes.push({ code: 'unusable', reason: `scene “${target}” is missing` });
    return 'end';
  };
  const mover: Mover = {
    play,
    enterScene: (target) => void (next = scenePlace(target, { scene: 0, step: -1 })),
    after(stepId, outcome) {
      if (outcome.kind === 'wait') return mover.wait(stepId, 0);
      const place = findStep(loop, stepId);
      next = place ? scenePlace(outcome.to, { scene: place.sceneIndex, step: place.stepIndex }) : 'end';
    },
    wait(stepId, tries) {
      const place = findStep(loop, stepId)!;
      next = 'waiting';
      run.at = { scene: place.scene.id, step: stepId };
      run.turn++;
      run.tries = tries;
      const noReply = waitingOf(place.step)?.noReply;
      if (noReply) effects.push({ kind: 'timer', dueAt: world.now + durationMs(noReply.after), turn: run.turn });
    },
  };

  first(mover);
  let left = MOST_STEPS_WITHOUT_WAITING;
  // Only assigned inside the closures above, which the compiler's narrowing does not see.
  while (typeof (next as unknown) === 'object') {
    const here = next as unknown as { scene: number; step: number };
    const scene = loop.scenes[here.scene];
    const step = scene?.steps[here.step];
    if (!scene || !step) {
      // A scene that runs out of steps is the end; scenes follow each other only by a target.
      next = 'end';
      break;
    }
    if (left-- === 0) {
      notes.push({ code: 'circle', scene: scene.name });
      return { run: { ...run, at: null, status: 'stopped', turn: run.turn + 1 }, person, effects, notes };
    }
    current = step.id;
    if (!run.reached.includes(step.id)) run.reached.push(step.id);
    mover.after(step.id, kindOf(step).enter(step, play));
  }
  if ((next as unknown) !== 'waiting') {
    run.at = null;
    run.tries = 0;
    run.turn++;
    run.status = 'finished';
    notes.push({ code: 'finished', loop: loop.name });
  }
  return { run, person, effects, notes };
}
