import type { LoopVersion } from '../../loops/model/loop';
import type { Passage, Value } from '../../people/person';
import { gatherTimer, runTimer, type Run } from './run';
import type { Turn } from './turn';

/**
 * The runs of a conversation as they become: which are under way, which speaks with the person, and how one
 * is closed.
 */
export class Runs {
  readonly #runs = new Map<string, Run>();
  readonly #changed = new Map<string, Run>();
  constructor(private readonly turn: Turn) {
    for (const run of turn.world.runs) this.#runs.set(run.id, run);
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

  get(id: string): Run | null {
    return this.#runs.get(id) ?? null;
  }

  /** A run gives way to another; so do those that wait for it. */
  giveWay(run: Run): void {
    this.turn.note({ code: 'run replaced', loop: this.nameOf(run) });
    this.#replace(run);
    for (let each = run.parent; each !== null;) {
      const caller = this.get(each);
      if (caller?.status === 'under way') this.#replace(caller);
      each = caller?.parent ?? null;
    }
  }

  /** What waited for the person's next words to be said is not said after those of the next run. */
  #replace(run: Run): void {
    if (this.turn.standing.holds)
      this.turn.effects.push({ kind: 'drop held', runId: run.id, loopId: run.loopId });
    this.close(run, 'replaced');
  }

  /** Ends every run: the person wants no more, or staff end it. */
  stopAll(): void {
    for (const run of this.underWay) this.close(run, 'stopped');
    for (const { incoming } of this.turn.standing.later)
      if (incoming.kind === 'timer') this.turn.dropTimer(runTimer(incoming.runId));
    this.turn.standing.later = [];
  }

  /** Ends one run, because its loop is stopped. */
  stop(run: Run): void {
    this.turn.note({ code: 'stopped', loop: this.nameOf(run) });
    this.close(run, 'stopped');
  }

  close(run: Run, status: 'finished' | 'replaced' | 'stopped'): void {
    this.stands(run, false);
    this.keep({ ...run, status, at: null, tries: 0, gathered: [], turn: run.turn + 1 });
    this.turn.dropTimer(runTimer(run.id));
    if (run.gathered.length > 0) this.turn.dropTimer(gatherTimer(run.id));
    if (this.turn.standing.held?.runId === run.id && this.turn.standing.held.by === null)
      this.turn.standing.held = null;
  }

  /** Notes where a run stands, or stood when it was over. */
  stands(run: Run, underWay: boolean): void {
    const passage = this.turn.person.history[run.loopId];
    const scene = run.at?.scene ?? passage?.stands?.scene;
    if (!passage || scene === undefined) return;
    if (passage.stands?.scene !== scene || passage.stands.underWay !== underWay)
      this.passed(run.loopId, { ...passage, stands: { scene, underWay } });
  }

  /** Notes what the person has been through in a loop. */
  passed(loopId: string, passage: Passage): void {
    this.turn.person.history = { ...this.turn.person.history, [loopId]: passage };
  }

  answer(runId: string, key: string, value: Value): void {
    const run = this.get(runId)!;
    this.keep({ ...run, answers: { ...run.answers, [key]: value } });
  }

  draw(loopId: string, stepId: string, arm: string): void {
    const passage = this.turn.person.history[loopId]!;
    this.passed(loopId, { ...passage, arms: { ...passage.arms, [stepId]: arm } });
  }

  keep(run: Run): void {
    this.#runs.set(run.id, run);
    this.#changed.set(run.id, run);
  }

  versionOf(run: Run): LoopVersion | null {
    return this.turn.world.version(run.loopId, run.version);
  }

  nameOf(run: Run): string {
    return this.versionOf(run)?.loop.name ?? 'a loop';
  }
}
