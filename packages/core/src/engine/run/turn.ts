import type { Booked, CalendarFacts } from '../../booking/calendar';
import { keptFor } from '../../booking/freeTimes';
import { CHANNELS } from '../../channels';
import { usableTemplate } from '../../channels/templates';
import { permission, type Permission } from '../../consent/permission';
import { dateDue, type Cue } from '../cues';
import { listensOn, type CueIndex } from '../decide/cueIndex';
import { durationMs, type Target } from '../../loops/model/basics';
import { findScene, findStep, targetWords, type LoopVersion, type StepPlace } from '../../loops/model/loop';
import type { LineFacts } from '../../people/client';
import type { ConsentScope } from '../../people/list';
import { languageOf, type LineTie, type Passage, type PersonFacts, type Value } from '../../people/person';
import { fold } from '../../language/fold';
import { merge } from '../../language/merge';
import { isMoreWord, phrases } from '../../language/phrases';
import { gatherTimer, newRun, runTimer, type Run } from './run';
import { StepPlay } from './stepPlay';
import {
  kindOf,
  waitingOf,
  type Aside,
  type Effect,
  type Left,
  type Note,
  type Outcome,
  type Play,
  type Reply,
  type Said,
  type StepAt,
  type StepReading,
  type StepWorld,
} from '../steps';
import { newStanding, type Standing } from './standing';
import { zoneOf, type World } from './world';

/** More steps than this in answer to one event is a circle. */
const MOST_STEPS = 200;
/** Loops within loops. */
const MOST_CALLS = 10;
const HOUR = 3_600_000;

/**
 * One event being answered: the runs, the person and the conversation as they become, and what is to be done.
 * It copies what came in before it changes anything, so that the answer is a pure function of the world.
 */
export class Turn {
  readonly notes: Note[] = [];
  /** Every step that was left, in order. */
  readonly trail: Left[] = [];
  readonly effects: Effect[] = [];
  readonly person: PersonFacts;
  readonly standing: Standing;
  readonly zone: string;
  readonly language: string;
  readonly #runs = new Map<string, Run>();
  readonly #changed = new Map<string, Run>();
  readonly #timers = new Map<string, Extract<Effect, { kind: 'timer' }> | null>();
  #steps = MOST_STEPS;
  #started = 0;
  #booked: readonly Booked[];

  constructor(readonly world: World) {
    // One level deep: what lies below is replaced, never changed in place.
    this.person = { ...world.person };
    this.standing = { ...world.standing };
    this.person.ties = this.#ties();
    this.zone = zoneOf(world.person, world.client, world.number ?? null);
    this.language = languageOf(world.person, world.client);
    for (const run of world.runs) this.#runs.set(run.id, run);
    this.#booked = world.booked ?? [];
  }

  /** Runs under way, the newest last. */
  get underWay(): Run[] {
    return [...this.#runs.values()].filter((run) => run.status === 'under way');
  }
  /** Runs that this event changed, in the order in which they were touched first. */
  get changed(): Run[] {
    return [...this.#changed.values()];
  }
  /**
   * The run that speaks with the person now: the newest that waits for their reply, for staff, or for an
   * answer from outside.
   */
  get foremost(): Run | null {
    return (
      this.underWay.findLast((run) => run.at && ['reply', 'person', 'errand'].includes(run.at.for)) ?? null
    );
  }
  run(id: string): Run | null {
    return this.#runs.get(id) ?? null;
  }
  note(note: Note): void {
    this.notes.push(note);
  }
  setTimer(key: string, dueAt: number, incoming: Extract<Effect, { kind: 'timer' }>['incoming']): void {
    this.#timers.set(key, { kind: 'timer', key, dueAt, incoming });
  }
  dropTimer(key: string): void {
    this.#timers.set(key, null);
  }

  /** Says something that no step of a loop says. */
  say(text: string, by: string | null = null): void {
    this.utter({ text, choices: [] }, null, by);
  }

  /** Merges a text that stands outside of any run. */
  mergeOutside(text: string): string {
    return text.includes('{') || text.includes('}') ? merge(text, this.stepWorld(null)) : text;
  }

  /** The program's own answer about being written to at all: one, whatever window there is. */
  confirm(text: string): void {
    this.standing.introduced = true;
    const permission: Permission = { may: 'go', until: null, via: null };
    this.effects.push({
      kind: 'send',
      said: { text, choices: [] },
      at: null,
      by: null,
      permission,
      aboutConsent: true,
    });
  }

  /** Says something, as soon as the channel lets the line write. */
  utter(said: Said, at: StepAt | null, by: string | null): void {
    const { channel } = this.world.line;
    const may = this.#otherwise(
      permission(CHANNELS[channel], this.standing, this.world.now, by !== null),
      said,
    );
    const full: Said = { ...said };
    if (said.choices.length > 3 && this.language !== 'en') full.language = this.language;
    if (channel === 'sms' && !this.standing.introduced) {
      this.standing.introduced = true;
      const { name } = this.world.client;
      if (!fold(said.text).includes(fold(name))) full.text = `${name}: ${said.text}`;
      if (!/\bSTOP\b/.test(said.text)) full.closing = phrases(this.language).howToStop;
    }
    if (may.may === 'elsewhere') {
      this.note({ code: 'said elsewhere', line: may.line });
      this.effects.push({
        kind: 'say elsewhere',
        conversationId: may.conversationId,
        said: { ...said, whenShut: { do: 'drop' } },
        at,
      });
      return;
    }
    if (may.may === 'drop') this.note({ code: 'dropped', reason: may.reason });
    else if (may.may === 'wait') {
      this.standing.holds = true;
      if (!this.notes.some((note) => note.code === 'held back'))
        this.note({ code: 'held back', reason: may.reason });
      if (at && !this.standing.unseen.includes(at.runId))
        this.standing.unseen = [...this.standing.unseen.slice(-9), at.runId];
    } else if (may.via?.kind === 'private reply') {
      this.standing.comment = { ...this.standing.comment!, answered: true };
      this.note({ code: 'answered privately' });
    }
    this.effects.push({ kind: 'send', said: full, at, by, permission: may });
  }

  /**
   * What a step wants where its message may not go now: a template that may, another line of the person's, or
   * nothing at all.
   */
  #otherwise(
    may: Permission,
    { whenShut }: Said,
  ): Permission | { may: 'elsewhere'; conversationId: string; line: string } {
    if (may.may !== 'wait' || !whenShut) return may;
    if (whenShut.do === 'drop') return { may: 'drop', reason: may.reason };
    if (whenShut.do === 'other line') {
      const { beside = [], now } = this.world;
      const open = beside.filter(({ line, standing }) => {
        if (standing.optedOut || standing.held) return false;
        return permission(CHANNELS[line.channel], { ...newStanding(), ...standing }, now, false).may === 'go';
      });
      const [best] = open.sort((a, b) => (b.standing.lastHeardAt ?? 0) - (a.standing.lastHeardAt ?? 0));
      if (best) return { may: 'elsewhere', conversationId: best.conversationId, line: best.line.name };
      this.note({ code: 'no other line' });
      return may;
    }
    const template = usableTemplate(this.world.line.templates ?? [], whenShut, this.language);
    if (typeof template === 'string') {
      this.note({ code: 'template not usable', reason: template });
      return may;
    }
    this.note({ code: 'sent as template', name: template.name });
    return { may: 'go', until: null, via: { kind: 'template', template } };
  }

  /** The person has written or tapped: the window is open, and what was held back may go. */
  hearPerson(byAd: boolean): void {
    const channel = CHANNELS[this.world.line.channel];
    const { now } = this.world;
    const { standing } = this;
    const before = permission(channel, standing, now, false);
    const known = standing.heardFrom || standing.comment !== null || standing.holds;
    standing.heardFrom = true;
    // The time is the sender's: what comes late, after an outage, opens the window from when it was written.
    const at = Math.min(this.world.at ?? now, now);
    standing.lastHeardAt = Math.max(standing.lastHeardAt ?? 0, at);
    standing.comment = null;
    if (channel.window)
      standing.openUntil = Math.max(
        standing.openUntil ?? 0,
        at + (byAd ? channel.window.afterAd : channel.window.loop),
      );
    if (!known || (before.may === 'go' && before.via === null)) return;
    if (permission(channel, standing, now, false).may !== 'go') return;
    this.effects.push({ kind: 'release', until: standing.openUntil });
    if (standing.holds) this.note({ code: 'released' });
    standing.holds = false;
  }

  /** Shows the waiting step's choices from another one on. False when the run waits for no choice there. */
  showFrom(run: Run, stepId: string, from: number): boolean {
    const version = this.#versionOf(run);
    const reading =
      version && run.at?.for === 'reply' && run.at.step === stepId
        ? this.furtherChoices(version, stepId, run, from)
        : null;
    if (!version || !reading) return false;
    this.#proceed(run.id, version, stepId, (play) => reading.take(play), false, run.tries);
    return true;
  }

  /**
   * The showing of a step's choices from another one on, as a reading of what was tapped; null where the step
   * has none there.
   */
  furtherChoices(
    version: LoopVersion,
    stepId: string,
    run: Run | null,
    from: number,
  ): Extract<StepReading, { ok: true }> | null {
    const place = findStep(version.loop, stepId);
    const aside = run?.at?.step === stepId ? (run.at.aside ?? null) : null;
    const choices = place && kindOf(place.step).choices?.(place.step, this.stepWorld(run), aside);
    if (!choices || from >= choices.length) return null;
    return {
      ok: true,
      summary: 'a wish for further choices',
      take: (play) => {
        play.note({ code: 'more shown', from, of: choices.length });
        play.say(phrases(this.language).moreHere, choices, { from });
        return { kind: 'wait', for: 'reply', from, ...(aside && { aside }) };
      },
    };
  }

  /**
   * From which choice on somebody who writes "more" is to see them; null when all were shown, or the word is
   * none of ours.
   */
  moreAsked(run: Run, text: string): number | null {
    const version = this.#versionOf(run);
    const place = version && run.at?.for === 'reply' ? findStep(version.loop, run.at.step) : null;
    const count =
      (place && kindOf(place.step).choices?.(place.step, this.stepWorld(run), run.at?.aside ?? null))
        ?.length ?? 0;
    const { most, page } = CHANNELS[this.world.line.channel].choices;
    if (count <= most || !isMoreWord(text)) return null;
    const next = (run.at!.from ?? 0) + page;
    return next < count ? next : 0;
  }

  /** All effects in order, the timers last. */
  allEffects(): Effect[] {
    return [
      ...this.effects,
      ...[...this.#timers].map(([key, timer]): Effect => timer ?? { kind: 'no timer', key }),
    ];
  }

  // ── runs as a whole
  // ──────────────────────────────────────────────────────────────────────────────────────────────

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
      const running = this.underWay.find((run) => run.loopId === version.loopId && run.at?.for !== 'reply');
      if (running) this.#giveWay(running);
      const foremost = this.foremost;
      if (foremost && !(options.beside && foremost.loopId !== version.loopId)) this.#giveWay(foremost);
    }
    const run = newRun(
      nthId(this.world.newRunId, this.#started++),
      version.loopId,
      version.version,
      cueId,
      parent?.id ?? null,
      depth,
    );
    this.#keep(run);
    const passage = this.person.history[version.loopId];
    this.#passed(version.loopId, {
      started: this.world.now,
      finished: passage?.finished ?? null,
      cues: { ...passage?.cues, [cueId]: this.world.now },
      ...(passage?.arms && { arms: passage.arms }),
      stands: { scene: options.scene ?? version.loop.scenes[0]?.id ?? 'end', underWay: true },
    });
    const { from } = options;
    if (from) this.#proceed(run.id, version, from.stepId, (play) => from.reading.take(play));
    else
      this.#playFrom(
        run.id,
        version,
        this.#placeOf(version, options.scene ?? version.loop.scenes[0]?.id ?? 'end', null),
      );
  }

  /** A run gives way to another; so do those that wait for it. */
  #giveWay(run: Run): void {
    this.note({ code: 'run replaced', loop: this.#nameOf(run) });
    this.#close(run, 'replaced');
    for (let each = run.parent; each !== null;) {
      const caller = this.run(each);
      if (caller?.status === 'under way') this.#close(caller, 'replaced');
      each = caller?.parent ?? null;
    }
  }

  /** Ends every run: the person wants no more, or staff end it. */
  stopAll(): void {
    for (const run of this.underWay) this.#close(run, 'stopped');
    for (const { incoming } of this.standing.later)
      if (incoming.kind === 'timer') this.dropTimer(runTimer(incoming.runId));
    this.standing.later = [];
  }

  /** Ends one run, because its loop is stopped. */
  stop(run: Run): void {
    this.note({ code: 'stopped', loop: this.#nameOf(run) });
    this.#close(run, 'stopped');
  }

  #close(run: Run, status: 'finished' | 'replaced' | 'stopped'): void {
    this.#stands(run, false);
    this.#keep({ ...run, status, at: null, tries: 0, gathered: [], turn: run.turn + 1 });
    this.dropTimer(runTimer(run.id));
    if (run.gathered.length > 0) this.dropTimer(gatherTimer(run.id));
    if (this.standing.held?.runId === run.id && this.standing.held.by === null) this.standing.held = null;
  }

  /** The run goes on where it waits: its question is said again. */
  resume(run: Run): void {
    const version = this.#versionOf(run);
    const place = version && run.at && findStep(version.loop, run.at.step);
    this.note({ code: 'resumed', loop: this.#nameOf(run) });
    if (!version || !place || run.at?.for !== 'reply') return;
    this.#proceed(
      run.id,
      version,
      place.step.id,
      (play) => kindOf(place.step).enter(place.step, play),
      false,
    );
  }

  /** Puts a run under way on another version, where the step it waits at is still there. */
  moveTo(run: Run, version: LoopVersion): boolean {
    if (!run.at || !findStep(version.loop, run.at.step)) return false;
    const place = findStep(version.loop, run.at.step)!;
    this.#keep({ ...run, version: version.version, at: { ...run.at, scene: place.scene.id } });
    this.note({ code: 'moved', loop: version.loop.name, version: version.version });
    return true;
  }

  // ── what happens to a run that waits
  // ─────────────────────────────────────────────────────────────────────────────

  /** Whether a run waits at a step that can read the reply; null when it does not wait for one. */
  readable(run: Run, reply: Reply): StepReading | null {
    const version = this.#versionOf(run);
    return version && run.at?.for === 'reply'
      ? this.readAt(version, run.at.step, reply, run, run.at.aside ?? null)
      : null;
  }

  readAt(
    version: LoopVersion,
    stepId: string,
    reply: Reply,
    run: Run | null,
    aside: Aside | null,
  ): StepReading | null {
    const place = findStep(version.loop, stepId);
    return (place && kindOf(place.step).read?.(place.step, reply, this.stepWorld(run), aside)) ?? null;
  }

  /**
   * Plays a reply that the waiting step can read; several messages are gathered first, where the step wants
   * that.
   */
  take(run: Run, reply: Reply, reading: Extract<StepReading, { ok: true }>): void {
    const version = this.#versionOf(run)!;
    const stepId = run.at!.step;
    const step = findStep(version.loop, stepId)!.step;
    if (reading.gathers && step.kind === 'ask' && reply.kind === 'text')
      return this.gather(run, reply.text, step.gather!);
    this.#proceed(run.id, version, stepId, (play) => reading.take(play));
  }

  gather(run: Run, text: string, time: string): void {
    const ms = durationMs(time);
    this.#keep({ ...run, gathered: [...run.gathered, text].slice(-50) });
    this.setTimer(gatherTimer(run.id), this.world.now + ms, {
      kind: 'timer',
      runId: run.id,
      turn: run.turn,
      what: 'gathered',
    });
    this.note({ code: 'gathering', seconds: Math.round(ms / 1_000) });
  }

  /** How long the step gathers messages that answer it; null when it does not. */
  gathersFor(run: Run): string | null {
    const version = this.#versionOf(run);
    const step =
      version && run.at?.for === 'reply' && !run.at.aside ? findStep(version.loop, run.at.step)?.step : null;
    return step?.kind === 'ask' ? (step.gather ?? null) : null;
  }

  /** Where words that call off lead from the step the run waits at; null when it has no such exit. */
  calledOff(run: Run): Target | null {
    const version = this.#versionOf(run);
    const place = version && run.at?.for === 'reply' ? findStep(version.loop, run.at.step) : null;
    return (place && waitingOf(place.step)?.cancel) ?? null;
  }

  callOff(run: Run, to: Target): void {
    this.#lead(run, to, (where) => ({ code: 'called off', to: where }));
  }

  /** Whether an unreadable reply would be answered: by an exit or a retry. */
  answersUnread(run: Run): boolean {
    const version = this.#versionOf(run);
    const place = version && run.at?.for === 'reply' ? findStep(version.loop, run.at.step) : null;
    const waiting = place && waitingOf(place.step);
    return Boolean(
      waiting &&
      (waiting.somethingElse || waiting.otherwise || (waiting.retry && run.tries < waiting.retry.times)),
    );
  }

  /**
   * Plays a reply that could not be read: its exit for something else, else asked again, else the exit. Only
   * where {@link answersUnread}.
   */
  retryOrExit(run: Run, reason: string): void {
    const version = this.#versionOf(run)!;
    const { step } = findStep(version.loop, run.at!.step)!;
    const waiting = waitingOf(step)!;
    if (waiting.somethingElse)
      return this.#lead(run, waiting.somethingElse, (to) => ({ code: 'something else', to }));
    const tries = run.tries + 1;
    const of = waiting.retry?.times ?? 0;
    this.note({ code: 'could not read', reason, tries, of });
    if (waiting.retry && tries <= of) {
      const text = waiting.variants?.[this.language]?.retry ?? waiting.retry.text;
      return this.#proceed(
        run.id,
        version,
        step.id,
        (play) => {
          // Times that were offered are offered again; a question of ours about an answer is not.
          const aside = run.at?.aside?.kind === 'times' ? run.at.aside : null;
          play.say(text, kindOf(step).choices?.(step, play.world, aside));
          return { kind: 'wait', for: 'reply', ...(aside && { aside }) };
        },
        false,
        tries,
      );
    }
    this.#lead(run, waiting.otherwise!, (to) => ({ code: 'gave up', to }));
  }

  /**
   * Its time has come: no reply, a wait that is over, a hand-over that nobody took. False when the timer is
   * stale.
   */
  timeOut(run: Run, turn: number): boolean {
    const version = this.#versionOf(run);
    const place = version && run.at ? findStep(version.loop, run.at.step) : null;
    if (!version || !place || run.status !== 'under way' || run.turn !== turn || !run.at) return false;
    const { step } = place;
    if (run.at.for === 'time') {
      // After a real wait the chain of loops that started each other is at its end.
      const fresh = this.world.now - run.at.since >= HOUR ? { ...run, depth: 0 } : run;
      this.#keep(fresh);
      this.note({ code: 'waited' });
      this.#proceed(run.id, version, step.id, () => ({ kind: 'go', to: 'next' }));
      return true;
    }
    if (run.at.for === 'person' && step.kind === 'hand over' && step.giveUp) {
      const { after, to } = step.giveUp;
      this.standing.held = null;
      this.#lead(run, to, (where) => ({ code: 'hand-over given up', after, to: where }));
      return true;
    }
    const noReply = run.at.for === 'reply' ? waitingOf(step)?.noReply : null;
    if (!noReply) return false;
    this.#lead(run, noReply.to, (to) => ({ code: 'no reply', after: noReply.after, to }));
    return true;
  }

  /** What was sent out has come back. False when the run does not wait for it any more. */
  delivered(run: Run, turn: number, outcome: { ok: boolean; reason: string; body: unknown }): boolean {
    const version = this.#versionOf(run);
    const place =
      version && run.at?.for === 'errand' && run.turn === turn ? findStep(version.loop, run.at.step) : null;
    if (!version || !place || run.status !== 'under way') return false;
    this.#proceed(run.id, version, place.step.id, (play) =>
      kindOf(place.step).delivered!(place.step, outcome, play),
    );
    return true;
  }

  /** Staff hand the conversation back: the loop goes on after its hand-over, or asks its question again. */
  handBack(run: Run): void {
    const version = this.#versionOf(run);
    const stepId = run.at?.step;
    if (!version || !stepId) return;
    if (run.at?.for === 'person') this.#proceed(run.id, version, stepId, () => ({ kind: 'go', to: 'next' }));
    else this.resume(run);
  }

  /** Staff let the loop go on from a scene. False when it has no such scene. */
  restartAt(run: Run, sceneId: string): boolean {
    const version = this.#versionOf(run);
    if (!version || !findScene(version.loop, sceneId)) return false;
    this.#playFrom(run.id, version, this.#placeOf(version, sceneId, null));
    return true;
  }

  #lead(run: Run, to: Target, note: (where: string) => Note): void {
    const version = this.#versionOf(run)!;
    this.#proceed(run.id, version, run.at!.step, () => {
      this.note(note(targetWords(version.loop, to)));
      return { kind: 'go', to };
    });
  }

  // ── playing steps
  // ────────────────────────────────────────────────────────────────────────────────────────────────

  /** Plays one step's doing (`does`) and whatever comes after it. */
  #proceed(
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
    const said = this.notes.length;
    const outcome = does(this.#play(runId, version, stepId));
    this.#leave(runId, stepId, outcome, said);
    this.#playFrom(runId, version, this.#next(runId, version, place, outcome, tries));
  }

  #leave(runId: string, stepId: string, outcome: Outcome, said: number): void {
    if (outcome.kind === 'go')
      this.trail.push({ runId, stepId, to: outcome.to, notes: this.notes.slice(said) });
  }

  #forgetGathered(runId: string): void {
    const run = this.run(runId);
    if (!run || run.gathered.length === 0) return;
    this.dropTimer(gatherTimer(runId));
    this.#keep({ ...run, gathered: [] });
  }

  #playFrom(runId: string, version: LoopVersion, from: StepPlace | 'end' | 'waits'): void {
    let here = from;
    while (here !== 'waits') {
      if (here === 'end') return this.#end(runId, version);
      const { step, scene } = here;
      if (this.#steps-- <= 0) {
        this.note({ code: 'circle', scene: scene.name });
        return this.#close(this.run(runId)!, 'stopped');
      }
      const run = this.run(runId)!;
      if (!run.reached.includes(step.id)) this.#keep({ ...run, reached: [...run.reached, step.id] });
      const said = this.notes.length;
      const outcome = kindOf(step).enter(step, this.#play(runId, version, step.id));
      this.#leave(runId, step.id, outcome, said);
      // An opt-out step has ended everything.
      if (this.run(runId)!.status !== 'under way') return;
      here = this.#next(runId, version, here, outcome, 0);
    }
  }

  /** Where a step's outcome leads. A wait is written down here, a call plays the other loop first. */
  #next(
    runId: string,
    version: LoopVersion,
    place: StepPlace,
    outcome: Outcome,
    tries: number,
  ): StepPlace | 'end' | 'waits' {
    if (outcome.kind === 'go') return this.#placeOf(version, outcome.to, place);
    const run = this.run(runId)!;
    if (outcome.kind === 'call') return this.#call(run, version, place, outcome);
    this.#wait(run, place, outcome, tries);
    return 'waits';
  }

  #wait(
    run: Run,
    { scene, step }: StepPlace,
    outcome: Extract<Outcome, { kind: 'wait' }>,
    tries: number,
  ): void {
    const turn = run.turn + 1;
    const { now } = this.world;
    // One conversation, one voice: whoever was waiting for the person or for staff gives way.
    if (outcome.for === 'reply' || outcome.for === 'person')
      for (const other of this.underWay)
        if (other.id !== run.id && (other.at?.for === 'reply' || other.at?.for === 'person'))
          this.#giveWay(other);
    this.#keep({
      ...run,
      turn,
      tries,
      at: {
        scene: scene.id,
        step: step.id,
        for: outcome.for,
        since: now,
        ...(outcome.for === 'reply' && outcome.aside && { aside: outcome.aside }),
        ...(outcome.for === 'reply' && outcome.from && { from: outcome.from }),
      },
    });
    this.#stands(this.run(run.id)!, true);
    const due =
      outcome.for === 'time'
        ? outcome.until
        : outcome.for === 'person'
          ? step.kind === 'hand over' && step.giveUp
            ? now + durationMs(step.giveUp.after)
            : null
          : outcome.for === 'reply'
            ? afterOf(waitingOf(step)?.noReply?.after, now)
            : null;
    const key = runTimer(run.id);
    if (due === null) this.dropTimer(key);
    else this.setTimer(key, due, { kind: 'timer', runId: run.id, turn, what: 'run' });
    if (outcome.for === 'errand')
      for (const effect of this.effects)
        if (effect.kind === 'send out' && effect.at.runId === run.id && effect.at.stepId === step.id)
          effect.turn = turn;
  }

  #call(
    run: Run,
    version: LoopVersion,
    place: StepPlace,
    { loop, scene, back }: Extract<Outcome, { kind: 'call' }>,
  ): StepPlace | 'end' | 'waits' {
    const called = this.world.liveLoop(loop);
    let calls = 0;
    for (let each: Run | null = run; each?.parent; each = this.run(each.parent)) calls++;
    if (!called || (scene && !findScene(called.loop, scene))) {
      this.note({
        code: 'unusable',
        reason: called
          ? `the loop “${loop}” has no scene “${scene}”`
          : `the loop “${loop}” is missing or not published`,
      });
      this.trail.push({ runId: run.id, stepId: place.step.id, to: 'next', notes: [] });
      return this.#placeOf(version, 'next', place);
    }
    if (calls >= MOST_CALLS) {
      this.note({
        code: 'chain cut',
        loop: called.loop.name,
        reason: `loops have called each other ${MOST_CALLS} deep`,
      });
      this.#close(run, 'stopped');
      return 'waits';
    }
    this.note({ code: 'loop called', loop: called.loop.name, back });
    if (!back) {
      this.trail.push({ runId: run.id, stepId: place.step.id, to: 'end', notes: [] });
      this.#finish(run, version);
      this.start(called, run.cueId, {
        parent: run.parent ? (this.run(run.parent) ?? undefined) : undefined,
        scene,
        depth: run.depth,
      });
      return 'waits';
    }
    this.#keep({
      ...run,
      turn: run.turn + 1,
      tries: 0,
      at: { scene: place.scene.id, step: place.step.id, for: 'loop', since: this.world.now },
    });
    this.dropTimer(runTimer(run.id));
    this.start(called, run.cueId, { parent: this.run(run.id)!, scene, depth: run.depth });
    return 'waits';
  }

  #end(runId: string, version: LoopVersion): void {
    const run = this.run(runId)!;
    this.#finish(run, version);
    const parent = run.parent ? this.run(run.parent) : null;
    const parentVersion = parent && this.#versionOf(parent);
    if (!parent?.at || parent.status !== 'under way' || !parentVersion) return;
    this.note({ code: 'came back', loop: parentVersion.loop.name });
    this.#proceed(parent.id, parentVersion, parent.at.step, () => ({ kind: 'go', to: 'next' }));
  }

  #finish(run: Run, { loop }: LoopVersion): void {
    this.#close(this.run(run.id)!, 'finished');
    const passage = this.person.history[run.loopId];
    if (passage) this.#passed(run.loopId, { ...passage, finished: this.world.now });
    this.note({ code: 'finished', loop: loop.name });
  }

  #placeOf({ loop }: LoopVersion, target: Target, after: StepPlace | null): StepPlace | 'end' {
    if (target === 'end') return 'end';
    const sceneIndex = target === 'next' ? (after?.sceneIndex ?? 0) : (findScene(loop, target)?.index ?? -1);
    const stepIndex = target === 'next' ? (after?.stepIndex ?? -1) + 1 : 0;
    const scene = loop.scenes[sceneIndex];
    if (!scene) {
      this.note({ code: 'unusable', reason: `the scene “${target}” is missing` });
      return 'end';
    }
    // A scene that runs out of steps is the end; scenes follow each other only by a target.
    const step = scene.steps[stepIndex];
    return step ? { scene, sceneIndex, step, stepIndex } : 'end';
  }

  /** What a step may look at, with the run's answers as they are now. */
  stepWorld(run: Run | null): StepWorld {
    const { client, line, fields, now } = this.world;
    return {
      client,
      line,
      fields,
      now,
      zone: this.zone,
      language: languageOf(this.person, client),
      person: this.person,
      segments: this.world.segments,
      loopIds: this.world.loopIds,
      calendars: this.world.calendars,
      booked: this.#booked,
      answers: run?.answers ?? {},
      cueId: run?.cueId ?? '',
    };
  }

  #play(runId: string, version: LoopVersion, stepId: string): Play {
    return new StepPlay(this, runId, version, stepId);
  }

  /** The person's lines, this one as it is now. */
  #ties(): LineTie[] {
    const { line, beside = [] } = this.world;
    return [tieOf(line, this.standing), ...beside.map((other) => tieOf(other.line, other.standing))];
  }

  /** Notes where a run stands, or stood when it was over. */
  #stands(run: Run, underWay: boolean): void {
    const passage = this.person.history[run.loopId];
    const scene = run.at?.scene ?? passage?.stands?.scene;
    if (!passage || scene === undefined) return;
    if (passage.stands?.scene !== scene || passage.stands.underWay !== underWay)
      this.#passed(run.loopId, { ...passage, stands: { scene, underWay } });
  }

  /** Notes what the person has been through in a loop. */
  #passed(loopId: string, passage: Passage): void {
    this.person.history = { ...this.person.history, [loopId]: passage };
  }

  /**
   * Opting out stops every run at once; nothing is said any more but one confirmation. Out of everything: on
   * all lines.
   */
  consent(
    what: 'opt-out' | 'opt-in',
    words: string,
    at: StepAt | null,
    scope: 'line' | 'everything' = 'line',
  ): void {
    this.standing.optedOut = what === 'opt-out';
    this.standing.optedIn = what === 'opt-in';
    this.person.ties = this.#ties();
    this.#enter(what, scope, null, words, null, at);
    this.note({ code: 'consent', what, ...(scope === 'everything' && { scope }) });
    if (what === 'opt-in') return;
    this.standing.confirming = null;
    this.stopAll();
    if (scope === 'everything')
      for (const { conversationId } of this.world.beside ?? [])
        this.effects.push({
          kind: 'tell elsewhere',
          conversationId,
          incoming: { kind: 'opted out elsewhere', words },
        });
  }

  /** The person has opted out of everything on another line; the ledger has it from there. */
  optedOutElsewhere(): void {
    this.standing.optedOut = true;
    this.standing.optedIn = false;
    this.person.ties = this.#ties();
    this.standing.confirming = null;
    this.standing.held = null;
    this.note({ code: 'consent', what: 'opt-out', scope: 'everything' });
    this.stopAll();
  }

  /** Adds to the ledger. */
  #enter(
    what: 'opt-out' | 'opt-in',
    scope: ConsentScope,
    list: string | null,
    words: string,
    wording: number | null,
    at: StepAt | null,
    cueId = at && (this.run(at.runId)?.cueId ?? null),
  ): void {
    this.effects.push({
      kind: 'consent',
      what,
      scope,
      list,
      words,
      wording,
      language: this.language,
      cueId,
      at,
    });
  }

  setField(field: string, after: Value | null, at: StepAt, depth: number): void {
    const before = this.person.fields[field] ?? null;
    if (after === null && before === null) return;
    if (after === null) {
      const { [field]: _gone, ...fields } = this.person.fields;
      this.person.fields = fields;
    } else this.person.fields = { ...this.person.fields, [field]: after };
    this.effects.push({ kind: 'set field', field, before, after, at });
    const same = JSON.stringify(before?.value) === JSON.stringify(after?.value);
    if (same) return;
    this.person.changed = { ...this.person.changed, [field]: this.world.now };
    this.raise(`field:${field}`, { kind: 'field', field, before, after, depth });
    for (const heard of this.world.cues.dates) {
      const { loopId, cue } = heard;
      if (cue.field !== field || !listensOn(heard, this.world.line.key)) continue;
      const key = `date:${loopId}:${cue.id}`;
      const due = after?.type === 'date' ? dateDue(cue, after.value, this.world.now, this.zone) : null;
      if (due === null || after?.type !== 'date') this.dropTimer(key);
      else this.setTimer(key, due, { kind: 'date', loopId, cueId: cue.id, of: after.value });
    }
  }

  /**
   * Something happened that cues may wait for: it comes back as an event of its own, once this one is over.
   */
  raise(key: string, incoming: Extract<Effect, { kind: 'raise' }>['incoming']): void {
    if (this.world.cues.others.has(key)) this.effects.push({ kind: 'raise', incoming });
  }

  /** What waits for its turn is raised as soon as nobody is spoken with. */
  callLater(): void {
    if (this.standing.later.length === 0 || this.foremost || this.standing.held) return;
    for (const { incoming } of this.standing.later) this.effects.push({ kind: 'raise', incoming });
    this.standing.later = [];
    this.dropTimer('later');
  }

  tag(tag: string, on: boolean, at: StepAt, depth: number): void {
    if (this.person.tags.includes(tag) === on) return;
    this.person.tags = on
      ? [...this.person.tags, tag].sort()
      : this.person.tags.filter((other) => other !== tag);
    this.effects.push({ kind: 'tag', tag, on, at });
    this.raise(`tag:${on ? 'added' : 'removed'}:${tag}`, { kind: 'tag', tag, on, depth });
  }

  /** Puts the person on a list or takes them off. One that is confirmed asks first. */
  list(list: string, on: boolean, at: StepAt, depth: number): void {
    if (this.person.lists.includes(list) === on) return;
    const facts = this.world.lists?.[fold(list)];
    if (on && facts?.double) {
      this.standing.confirming = {
        list,
        since: this.world.now,
        cueId: this.run(at.runId)?.cueId ?? null,
        at,
      };
      this.note({ code: 'asked to confirm', list });
      this.utter({ text: phrases(this.language).confirmList(facts.wording), choices: [] }, at, null);
      return;
    }
    this.#setList(list, on, at, depth);
    this.#enter(
      on ? 'opt-in' : 'opt-out',
      'list',
      list,
      (on && facts?.wording) || 'by a step of the loop',
      (on && facts?.version) || null,
      at,
    );
  }

  /** The person has confirmed the list that they were asked about. */
  confirmList(): void {
    const { confirming } = this.standing;
    if (!confirming) return;
    const { list, at, cueId } = confirming;
    const facts = this.world.lists?.[fold(list)];
    this.standing.confirming = null;
    if (this.person.lists.includes(list)) return;
    this.#setList(list, true, at, 0);
    this.#enter('opt-in', 'list', list, facts?.wording ?? list, facts?.version ?? null, at, cueId);
    this.note({ code: 'consent', what: 'opt-in', scope: 'list', list });
  }

  /** The person leaves a list by their own words. */
  leaveList(list: string, words: string): void {
    this.#setList(list, false, null, 0);
    this.#enter('opt-out', 'list', list, words, null, null);
    this.note({ code: 'consent', what: 'opt-out', scope: 'list', list });
  }

  #setList(list: string, on: boolean, at: StepAt | null, depth: number): void {
    this.person.lists = on
      ? [...this.person.lists, list].sort()
      : this.person.lists.filter((other) => other !== list);
    this.effects.push({ kind: 'list', list, on, at });
    if (on) this.raise(`list:${list}`, { kind: 'list', list, depth });
  }

  answer(runId: string, key: string, value: Value): void {
    const run = this.run(runId)!;
    this.#keep({ ...run, answers: { ...run.answers, [key]: value } });
  }

  /** Takes a time (ms) of a calendar for the person, in place of what they have booked there. */
  book(
    { id: calendarId, calendar }: CalendarFacts,
    from: number,
    fields: { day: string; time: string },
    at: StepAt,
  ): void {
    const moves = this.#booked.find((each) => each.calendarId === calendarId)?.id ?? null;
    const id = moves ?? nthId(this.world.newRunId, this.#started++);
    this.#booked = [...this.#booked.filter((each) => each.id !== id), { id, calendarId, from }];
    this.effects.push({
      kind: 'book',
      id,
      calendarId,
      calendar: calendar.name,
      ...keptFor(calendar, from),
      isMove: moves !== null,
      fields,
      at,
    });
  }

  draw(loopId: string, stepId: string, arm: string): void {
    const passage = this.person.history[loopId]!;
    this.#passed(loopId, { ...passage, arms: { ...passage.arms, [stepId]: arm } });
  }

  #keep(run: Run): void {
    this.#runs.set(run.id, run);
    this.#changed.set(run.id, run);
  }
  #versionOf(run: Run): LoopVersion | null {
    return this.world.version(run.loopId, run.version);
  }
  #nameOf(run: Run): string {
    return this.#versionOf(run)?.loop.name ?? 'a loop';
  }
}

/** A line of somebody's with what they have said about being written to on it. */
export const tieOf = (
  { key, channel }: LineFacts,
  { optedIn, optedOut }: Pick<Standing, 'optedIn' | 'optedOut'>,
): LineTie => ({
  key,
  channel,
  optedIn,
  optedOut,
});

const afterOf = (after: string | undefined, now: number) =>
  after === undefined ? null : now + durationMs(after);

/** The id counted on by `n`: UUIDs that one event hands out stay apart and in order. */
function nthId(id: string, n: number): string {
  if (n === 0) return id;
  const tail = (BigInt(`0x${id.slice(24)}`) + BigInt(n)) & 0xffffffffffffn;
  return id.slice(0, 24) + tail.toString(16).padStart(12, '0');
}

/** The cue a timer or background event belongs to, still live. */
export function liveCue(
  index: CueIndex,
  loopId: string,
  cueId: string,
): {
  loopId: string;
  version: number;
  loopName: string;
  cue: Cue;
  lines: readonly string[];
  order: number;
} | null {
  return (
    [...index.dates, ...index.silences].find((heard) => heard.loopId === loopId && heard.cue.id === cueId) ??
    null
  );
}
