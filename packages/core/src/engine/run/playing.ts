import { type Target } from '../../loops/model/basics';
import { findScene, findStep, targetWords, type LoopVersion, type StepPlace } from '../../loops/model/loop';
import { gatherTimer, newRun, runTimer, type Run } from './run';
import { StepPlay } from './stepPlay';
import {
  kindOf,
  type Effect,
  type Items,
  type Note,
  type Outcome,
  type Play,
  type StepReading,
} from '../steps';
import { placeOf, waitHere } from './places';
import { stageWords } from './stage';
import type { Turn } from './turn';

/** More steps than this in answer to one event is a circle. */
const MOST_STEPS = 200;
/** A step that says or sends something so often in answer to one event goes round in a circle. */
const MOST_SAYINGS = 3;
/** Loops within loops, and scenes within scenes. */
const MOST_CALLS = 10;
const MOST_VISITS = 20;

const GOES_OUT: ReadonlySet<string> = new Set<Effect['kind']>([
  'send',
  'say elsewhere',
  'alert',
  'deliver',
  'send out',
  'ask sources',
]);

/** Runs that are played: started, led on from step to step, made to wait, called and ended. */
export class Playing {
  #steps = MOST_STEPS;
  /** How often each step has said or sent something, by loop and step. */
  readonly #sayings = new Map<string, number>();
  constructor(private readonly turn: Turn) {}

  /**
   * Starts a loop. What spoke with the person gives way, unless it called this loop itself, or this one comes
   * beside it: then only once this one waits for the person too.
   */
  start(
    version: LoopVersion,
    cueId: string,
    options: {
      depth?: number;
      beside?: boolean;
      parent?: Run;
      scene?: string;
      from?: { stepId: string; reading: Extract<StepReading, { ok: true }> };
    } = {},
  ): void {
    const { depth = 0, parent } = options;
    if (!parent) {
      const running = this.turn.runs.underWay.find(
        (run) => run.loopId === version.loopId && run.at?.for !== 'reply',
      );
      if (running) this.turn.runs.giveWay(running);
      const foremost = this.turn.runs.foremost;
      if (foremost && !(options.beside && foremost.loopId !== version.loopId))
        this.turn.runs.giveWay(foremost);
    }
    const run = newRun(this.turn.newId(), version.loopId, version.version, cueId, parent?.id ?? null, depth);
    this.turn.runs.keep(run);
    const passage = this.turn.person.history[version.loopId];
    this.turn.runs.passed(version.loopId, {
      started: this.turn.world.now,
      finished: passage?.finished ?? null,
      cues: { ...passage?.cues, [cueId]: this.turn.world.now },
      ...(passage?.arms && { arms: passage.arms }),
      stands: { scene: options.scene ?? version.loop.scenes[0]?.id ?? 'end', underWay: true },
    });
    const { from } = options;
    if (from) this.proceed(run.id, version, from.stepId, (play) => from.reading.take(play));
    else
      this.#playFrom(
        run.id,
        version,
        placeOf(this.turn, version, options.scene ?? version.loop.scenes[0]?.id ?? 'end', null),
      );
  }

  /** The run goes on where it waits: its question is said again. */
  resume(run: Run): void {
    const version = this.turn.runs.versionOf(run);
    const place = version && run.at && findStep(version.loop, run.at.step);
    this.turn.note({ code: 'resumed', loop: this.turn.runs.nameOf(run) });
    if (!version || !place || run.at?.for !== 'reply') return;
    this.proceed(run.id, version, place.step.id, (play) => kindOf(place.step).enter(place.step, play), false);
  }

  /** Puts a run under way on another version, where the step it waits at is still there. */
  moveTo(run: Run, version: LoopVersion): boolean {
    const place = run.at && findStep(version.loop, run.at.step);
    if (!run.at || !place) return false;
    this.turn.runs.keep({ ...run, version: version.version, at: { ...run.at, scene: place.scene.id } });
    this.turn.note({ code: 'moved', loop: version.loop.name, version: version.version });
    return true;
  }

  /** What was sent out has come back. False when the run does not wait for it any more. */
  delivered(run: Run, turn: number, outcome: { ok: boolean; reason: string; body: unknown }): boolean {
    const version = this.turn.runs.versionOf(run);
    // It was sent out in this very turn: nothing else has been waited for since.
    const place = version && run.at && run.turn === turn ? findStep(version.loop, run.at.step) : null;
    const kind = place && kindOf(place.step);
    if (!version || !kind?.delivered || run.status !== 'under way') return false;
    const aside = run.at?.aside ?? null;
    this.proceed(run.id, version, place!.step.id, (play) =>
      kind.delivered!(place!.step, outcome, play, aside),
    );
    return true;
  }

  /** Staff hand the conversation back: the loop goes on after its hand-over, or asks its question again. */
  handBack(run: Run): void {
    const version = this.turn.runs.versionOf(run);
    const stepId = run.at?.step;
    if (!version || !stepId) return;
    if (run.at?.for === 'person') this.proceed(run.id, version, stepId, () => ({ kind: 'go', to: 'next' }));
    else this.resume(run);
  }

  /** Staff let the loop go on from a scene. False when it has no such scene. */
  restartAt(run: Run, sceneId: string): boolean {
    const version = this.turn.runs.versionOf(run);
    if (!version || !findScene(version.loop, sceneId)) return false;
    this.turn.runs.keep({ ...this.turn.runs.get(run.id)!, returns: [] });
    this.#playFrom(run.id, version, placeOf(this.turn, version, sceneId, null));
    return true;
  }

  lead(run: Run, to: Target, note: (where: string) => Note): void {
    const version = this.turn.runs.versionOf(run)!;
    this.proceed(run.id, version, run.at!.step, () => {
      this.turn.note(note(targetWords(version.loop, to)));
      return { kind: 'go', to };
    });
  }

  /** Plays one step's doing (`does`) and whatever comes after it. */
  proceed(
    runId: string,
    version: LoopVersion,
    stepId: string,
    does: (play: Play) => Outcome,
    fresh = true,
    tries = 0,
  ): void {
    const place = findStep(version.loop, stepId);
    if (!place) return this.#end(runId, version);
    if (fresh) this.#forgetGathered(runId);
    const said = this.turn.notes.length;
    const outcome = does(this.#play(runId, version, stepId));
    this.#leave(runId, stepId, outcome, said);
    this.#playFrom(runId, version, this.#next(runId, version, place, outcome, tries));
  }

  #leave(runId: string, stepId: string, outcome: Outcome, said: number): void {
    if (outcome.kind === 'go')
      this.turn.trail.push({ runId, stepId, to: outcome.to, notes: this.turn.notes.slice(said) });
  }

  #forgetGathered(runId: string): void {
    const run = this.turn.runs.get(runId);
    if (!run || run.gathered.length === 0) return;
    this.turn.dropTimer(gatherTimer(runId));
    this.turn.runs.keep({ ...run, gathered: [] });
  }

  #playFrom(runId: string, version: LoopVersion, from: StepPlace | 'end' | 'waits'): void {
    let here = from;
    while (here !== 'waits') {
      if (here === 'end') return this.#end(runId, version);
      const { step, scene } = here;
      const who = `${version.loopId}/${step.id}/${this.#itemsOf(runId)}`;
      if (this.#steps-- <= 0 || (this.#sayings.get(who) ?? 0) >= MOST_SAYINGS)
        return this.#stop(runId, { code: 'circle', scene: scene.name });
      const run = this.turn.runs.get(runId)!;
      if (!run.reached.includes(step.id)) this.turn.runs.keep({ ...run, reached: [...run.reached, step.id] });
      const said = this.turn.notes.length;
      const done = this.turn.effects.length;
      const outcome = kindOf(step).enter(step, this.#play(runId, version, step.id));
      if (this.turn.effects.slice(done).some(({ kind }) => GOES_OUT.has(kind)))
        this.#sayings.set(who, (this.#sayings.get(who) ?? 0) + 1);
      this.#leave(runId, step.id, outcome, said);
      // An opt-out step has ended everything.
      if (this.turn.runs.get(runId)!.status !== 'under way') return;
      here = this.#next(runId, version, here, outcome, 0);
    }
  }

  /** Stops a run by itself: the conversation waits for a person, who hears why. */
  #stop(runId: string, why: Note): void {
    this.turn.note(why);
    this.turn.standing.stopped = stageWords(why);
    this.turn.runs.close(this.turn.runs.get(runId)!, 'stopped');
  }

  /** Where a step's outcome leads. A wait is written down here, a call plays the other loop first. */
  #next(
    runId: string,
    version: LoopVersion,
    place: StepPlace,
    outcome: Outcome,
    tries: number,
  ): StepPlace | 'end' | 'waits' {
    if (outcome.kind === 'go') return this.#placeIn(runId, version, outcome.to, place);
    const run = this.turn.runs.get(runId)!;
    if (outcome.kind === 'visit') return this.#visit(run, version, place, outcome);
    if (outcome.kind === 'call') return this.#call(run, version, place, outcome);
    waitHere(this.turn, run, place, outcome, tries);
    return 'waits';
  }

  /** At which items a run is, in the scenes that it plays for several. */
  #itemsOf = (runId: string): string =>
    (this.turn.runs.get(runId)?.returns ?? []).map(({ each }) => each?.at ?? '').join('.');

  /** To a scene, to come back after this step. */
  #visit(
    run: Run,
    version: LoopVersion,
    place: StepPlace,
    { to, each }: Extract<Outcome, { kind: 'visit' }>,
  ): StepPlace | 'end' | 'waits' {
    const returns = [
      ...(run.returns ?? []),
      { step: place.step.id, ...(each && { each: { ...each, at: 0 } }) },
    ];
    if (returns.length > MOST_VISITS) {
      const reason = `scenes have gone to each other ${MOST_VISITS} deep, to come back`;
      this.#stop(run.id, { code: 'chain cut', loop: version.loop.name, reason });
      return 'waits';
    }
    this.turn.runs.keep({ ...run, returns });
    this.turn.trail.push({ runId: run.id, stepId: place.step.id, to, notes: [] });
    if (each) this.#takeItem(run.id, { ...each, at: 0 });
    return this.#placeIn(run.id, version, to, place);
  }

  /** Makes an item the answer that the scene finds it as. */
  #takeItem(runId: string, { items, item, number, at }: Items & { at: number }): void {
    this.turn.note({ code: 'next item', nth: at + 1, of: items.length });
    this.turn.runs.answer(runId, item, items[at]!);
    this.turn.runs.answer(runId, number, { type: 'number', value: at + 1 });
    // Each item has the steps of a scene to itself.
    this.#steps += 100;
  }

  /** Where a target leads a run; at the end of a scene that was gone to, back to where it came from. */
  #placeIn(runId: string, version: LoopVersion, target: Target, after: StepPlace | null): StepPlace | 'end' {
    let here = placeOf(this.turn, version, target, after);
    while (here === 'end' && target !== 'end') {
      const run = this.turn.runs.get(runId)!;
      const from = run.returns?.at(-1);
      const place = from && findStep(version.loop, from.step);
      if (!from || !place || place.step.kind !== 'go') return 'end';
      const others = run.returns!.slice(0, -1);
      const at = (from.each?.at ?? 0) + 1;
      if (from.each && at < from.each.items.length) {
        const each = { ...from.each, at };
        this.turn.runs.keep({ ...run, returns: [...others, { ...from, each }] });
        this.#takeItem(runId, each);
        here = placeOf(this.turn, version, place.step.to!, place);
        continue;
      }
      this.turn.runs.keep({ ...run, returns: others });
      this.turn.note({ code: 'went back', to: targetWords(version.loop, place.scene.id) });
      here = placeOf(this.turn, version, 'next', place);
    }
    return here;
  }

  #call(
    run: Run,
    version: LoopVersion,
    place: StepPlace,
    { loop, scene, back }: Extract<Outcome, { kind: 'call' }>,
  ): StepPlace | 'end' | 'waits' {
    const called = this.turn.world.liveLoop(loop);
    let calls = 0;
    for (let each: Run | null = run; each?.parent; each = this.turn.runs.get(each.parent)) calls++;
    if (!called || (scene && !findScene(called.loop, scene))) {
      this.turn.note({
        code: 'unusable',
        reason: called
          ? `the loop “${loop}” has no scene “${scene}”`
          : `the loop “${loop}” is missing or not published`,
      });
      this.turn.trail.push({ runId: run.id, stepId: place.step.id, to: 'next', notes: [] });
      return this.#placeIn(run.id, version, 'next', place);
    }
    if (calls >= MOST_CALLS) {
      this.#stop(run.id, {
        code: 'chain cut',
        loop: called.loop.name,
        reason: `loops have called each other ${MOST_CALLS} deep`,
      });
      return 'waits';
    }
    this.turn.note({ code: 'loop called', loop: called.loop.name, back });
    if (!back) {
      this.turn.trail.push({ runId: run.id, stepId: place.step.id, to: 'end', notes: [] });
      this.#finish(run, version);
      this.start(called, run.cueId, {
        parent: run.parent ? (this.turn.runs.get(run.parent) ?? undefined) : undefined,
        scene,
        depth: run.depth,
      });
      return 'waits';
    }
    this.turn.runs.keep({
      ...run,
      turn: run.turn + 1,
      tries: 0,
      at: { scene: place.scene.id, step: place.step.id, for: 'loop', since: this.turn.world.now },
    });
    this.turn.dropTimer(runTimer(run.id));
    this.start(called, run.cueId, { parent: this.turn.runs.get(run.id)!, scene, depth: run.depth });
    return 'waits';
  }

  #end(runId: string, version: LoopVersion): void {
    const run = this.turn.runs.get(runId)!;
    this.#finish(run, version);
    const parent = run.parent ? this.turn.runs.get(run.parent) : null;
    const parentVersion = parent && this.turn.runs.versionOf(parent);
    if (!parent?.at || parent.status !== 'under way' || !parentVersion) return;
    this.turn.note({ code: 'came back', loop: parentVersion.loop.name });
    this.proceed(parent.id, parentVersion, parent.at.step, () => ({ kind: 'go', to: 'next' }));
  }

  #finish(run: Run, { loop }: LoopVersion): void {
    this.turn.runs.close(this.turn.runs.get(run.id)!, 'finished');
    const passage = this.turn.person.history[run.loopId];
    if (passage) this.turn.runs.passed(run.loopId, { ...passage, finished: this.turn.world.now });
    this.turn.note({ code: 'finished', loop: loop.name });
  }

  #play(runId: string, version: LoopVersion, stepId: string): Play {
    return new StepPlay(this.turn, runId, version, stepId);
  }
}
