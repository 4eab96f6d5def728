import type { CalendarFacts } from '../../booking/calendar';
import type { Target } from '../../loops/model/basics';
import { targetWords, type LoopVersion } from '../../loops/model/loop';
import type { Value } from '../../people/person';
import { merge } from '../../language/merge';
import { choiceRef } from './choiceRef';
import type { Said } from '../../channels/said';
import type { Note, Play, SayMore, StepAt, StepWorld } from '../steps';
import type { AskedCame } from '../steps/fromSources';
import type { Turn } from './turn';

/** One step being played: what it may do, with who wants it. */
export class StepPlay implements Play {
  readonly #turn: Turn;
  readonly #runId: string;
  readonly #version: LoopVersion;
  readonly #at: StepAt;
  constructor(turn: Turn, runId: string, version: LoopVersion, stepId: string) {
    this.#turn = turn;
    this.#runId = runId;
    this.#version = version;
    this.#at = { runId, loopId: version.loopId, loop: version.loop.name, version: version.version, stepId };
  }
  /** As it is now: answers and values come while the step is played. */
  get world(): StepWorld {
    return this.#turn.stepWorld(this.#turn.runs.get(this.#runId));
  }
  get loopId(): string {
    return this.#at.loopId;
  }
  get #depth(): number {
    return this.#turn.runs.get(this.#runId)!.depth + 1;
  }
  merge(text: string, fills: Record<string, Value> = {}): string {
    if (!text.includes('{') && !text.includes('}')) return text;
    const { world } = this;
    return merge(text, { ...world, answers: { ...world.answers, ...fills } });
  }
  where(target: Target): string {
    return targetWords(this.#version.loop, target);
  }
  say(text: string, choices: { id: string; label: string }[] = [], more: SayMore = {}): void {
    if (this.#turn.standing.optedOut) return;
    const { runId, stepId } = this.#at;
    const merged = (written: string) => (more.asItIs ? written : this.merge(written, more.fills));
    const said: Said = {
      text: merged(text),
      choices: choices.map(({ id, label }) => ({
        ref: choiceRef({ runId, stepId, choiceId: id }),
        label: merged(label),
      })),
    };
    // A file that is gone is not sent; its text is.
    const address = more.media ? this.merge(more.media.address).trim() : '';
    if (more.media && address) said.media = { ...more.media, address };
    if (more.link)
      said.link = {
        ...more.link,
        address: this.merge(more.link.address),
        ...(more.link.title && { title: this.merge(more.link.title) }),
      };
    if (more.typing) said.typing = more.typing;
    if (more.from) said.from = more.from;
    if (more.whenShut)
      said.whenShut =
        more.whenShut.do !== 'template'
          ? more.whenShut
          : {
              ...more.whenShut,
              parameters: (more.whenShut.parameters ?? []).map((each) => this.merge(each)),
              ...(more.whenShut.file && { file: this.merge(more.whenShut.file).trim() }),
            };
    if (said.text.trim() || said.choices.length > 0 || said.media)
      this.#turn.voice.utter(said, this.#at, null);
  }
  setField(field: string, value: Value | null): void {
    this.#turn.changes.setField(field, value, this.#at, this.#depth);
  }
  answer(key: string, value: Value): void {
    this.#turn.runs.answer(this.#runId, key, value);
  }
  tag(tag: string, on: boolean): void {
    this.#turn.changes.tag(tag, on, this.#at, this.#depth);
  }
  list(list: string, on: boolean): void {
    this.#turn.changes.list(list, on, this.#at, this.#depth);
  }
  consent(what: 'opt-out' | 'opt-in', words: string): void {
    this.#turn.changes.consent(what, words, this.#at);
  }
  alert(by: 'email' | 'sms' | 'telegram', to: string[], subject: string, text: string): void {
    this.#turn.effects.push({ kind: 'alert', by, to, subject, text, at: this.#at });
  }
  deliver(destination: string): void {
    this.#turn.effects.push({ kind: 'deliver', destination, at: this.#at });
  }
  book(calendar: CalendarFacts, from: number, fields: { day: string; time: string }): void {
    this.#turn.changes.book(calendar, from, fields, this.#at);
  }
  unbook(calendar: CalendarFacts): boolean {
    return this.#turn.changes.unbook(calendar, this.#at);
  }
  askSources(question: string, before: string | null): void {
    this.#turn.effects.push({ kind: 'ask sources', question, before, turn: 0, at: this.#at });
    this.note({ code: 'sources asked', question });
  }
  asked(what: { question: string; came: AskedCame; passages: string[] }): void {
    this.#turn.effects.push({ kind: 'asked', ...what, at: this.#at });
  }
  words(): string | null {
    const { words } = this.#turn;
    this.#turn.words = null;
    return words;
  }
  sendOut(address: string, body: unknown): void {
    this.#turn.effects.push({ kind: 'send out', address, body, turn: 0, at: this.#at });
  }
  hold(team: string | null, note: string): void {
    this.#turn.standing.held = { by: null, since: this.#turn.world.now, runId: this.#runId, team, note };
    this.note({ code: 'handed over', to: team ?? 'whoever is there', note });
  }
  arm(): string | null {
    return this.#turn.person.history[this.#at.loopId]?.arms?.[this.#at.stepId] ?? null;
  }
  draw(arm: string): void {
    this.#turn.runs.draw(this.#at.loopId, this.#at.stepId, arm);
  }
  note(note: Note): void {
    this.#turn.note(note);
  }
}
