import type { Booked, CalendarFacts } from '../../booking/calendar';
import { keptFor } from '../../booking/freeTimes';
import { dateDue } from '../cues';
import { listensOn } from '../decide/cueIndex';
import type { LineFacts } from '../../people/client';
import type { ConsentScope } from '../../people/list';
import type { LineTie, Value } from '../../people/person';
import { fold } from '../../language/fold';
import { phrases } from '../../language/phrases';
import type { StepAt } from '../steps';
import type { Standing } from './standing';
import type { Turn } from './turn';
import { sameJson } from '../../sameJson';

/** What becomes of the person: consent and lists, fields and tags, times that are booked. */
export class Changes {
  booked: readonly Booked[];
  constructor(private readonly turn: Turn) {
    this.booked = turn.world.booked ?? [];
  }

  /** The person's lines, this one as it is now. */
  ties(): LineTie[] {
    const { line, beside = [] } = this.turn.world;
    return [tieOf(line, this.turn.standing), ...beside.map((other) => tieOf(other.line, other.standing))];
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
    this.turn.standing.optedOut = what === 'opt-out';
    this.turn.standing.optedIn = what === 'opt-in';
    this.turn.person.ties = this.ties();
    this.#enter(what, scope, null, words, null, at);
    this.turn.note({ code: 'consent', what, ...(scope === 'everything' && { scope }) });
    if (what === 'opt-in') return;
    this.turn.standing.confirming = null;
    this.turn.runs.stopAll();
    if (scope === 'everything')
      for (const { conversationId } of this.turn.world.beside ?? [])
        this.turn.effects.push({
          kind: 'tell elsewhere',
          conversationId,
          incoming: { kind: 'opted out elsewhere', words },
        });
  }

  /** The person has opted out of everything on another line; the ledger has it from there. */
  optedOutElsewhere(): void {
    this.turn.standing.optedOut = true;
    this.turn.standing.optedIn = false;
    this.turn.person.ties = this.ties();
    this.turn.standing.confirming = null;
    this.turn.standing.held = null;
    this.turn.note({ code: 'consent', what: 'opt-out', scope: 'everything' });
    this.turn.runs.stopAll();
  }

  /** Adds to the ledger. */
  #enter(
    what: 'opt-out' | 'opt-in',
    scope: ConsentScope,
    list: string | null,
    words: string,
    wording: number | null,
    at: StepAt | null,
    cueId = at && (this.turn.runs.get(at.runId)?.cueId ?? null),
  ): void {
    this.turn.effects.push({
      kind: 'consent',
      what,
      scope,
      list,
      words,
      wording,
      language: this.turn.language,
      cueId,
      at,
    });
  }

  setField(field: string, after: Value | null, at: StepAt, depth: number): void {
    const before = this.turn.person.fields[field] ?? null;
    if (after === null && before === null) return;
    if (after === null) {
      const { [field]: _gone, ...fields } = this.turn.person.fields;
      this.turn.person.fields = fields;
    } else this.turn.person.fields = { ...this.turn.person.fields, [field]: after };
    this.turn.effects.push({ kind: 'set field', field, before, after, at });
    if (sameJson(before?.value, after?.value)) return;
    this.turn.person.changed = { ...this.turn.person.changed, [field]: this.turn.world.now };
    this.turn.raise(`field:${field}`, { kind: 'field', field, before, after, depth });
    for (const heard of this.turn.world.cues.dates) {
      const { loopId, cue } = heard;
      if (cue.field !== field || !listensOn(heard, this.turn.world.line.key)) continue;
      const key = `date:${loopId}:${cue.id}`;
      const due =
        after?.type === 'date' ? dateDue(cue, after.value, this.turn.world.now, this.turn.zone) : null;
      if (due === null || after?.type !== 'date') this.turn.dropTimer(key);
      else this.turn.setTimer(key, due, { kind: 'date', loopId, cueId: cue.id, of: after.value });
    }
  }

  tag(tag: string, on: boolean, at: StepAt, depth: number): void {
    if (this.turn.person.tags.includes(tag) === on) return;
    this.turn.person.tags = on
      ? [...this.turn.person.tags, tag].sort()
      : this.turn.person.tags.filter((other) => other !== tag);
    this.turn.effects.push({ kind: 'tag', tag, on, at });
    this.turn.raise(`tag:${on ? 'added' : 'removed'}:${tag}`, { kind: 'tag', tag, on, depth });
  }

  /** Puts the person on a list or takes them off. One that is confirmed asks first. */
  list(list: string, on: boolean, at: StepAt, depth: number): void {
    if (this.turn.person.lists.includes(list) === on) return;
    const facts = this.turn.world.lists?.[fold(list)];
    if (on && facts?.double) {
      this.turn.standing.confirming = {
        list,
        since: this.turn.world.now,
        cueId: this.turn.runs.get(at.runId)?.cueId ?? null,
        at,
      };
      this.turn.note({ code: 'asked to confirm', list });
      this.turn.voice.utter(
        { text: phrases(this.turn.language).confirmList(facts.wording), choices: [] },
        at,
        null,
      );
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
    const { confirming } = this.turn.standing;
    if (!confirming) return;
    const { list, at, cueId } = confirming;
    const facts = this.turn.world.lists?.[fold(list)];
    this.turn.standing.confirming = null;
    if (this.turn.person.lists.includes(list)) return;
    this.#setList(list, true, at, 0);
    this.#enter('opt-in', 'list', list, facts?.wording ?? list, facts?.version ?? null, at, cueId);
    this.turn.note({ code: 'consent', what: 'opt-in', scope: 'list', list });
  }

  /** The person leaves a list by their own words. */
  leaveList(list: string, words: string): void {
    this.#setList(list, false, null, 0);
    this.#enter('opt-out', 'list', list, words, null, null);
    this.turn.note({ code: 'consent', what: 'opt-out', scope: 'list', list });
  }

  #setList(list: string, on: boolean, at: StepAt | null, depth: number): void {
    this.turn.person.lists = on
      ? [...this.turn.person.lists, list].sort()
      : this.turn.person.lists.filter((other) => other !== list);
    this.turn.effects.push({ kind: 'list', list, on, at });
    if (on) this.turn.raise(`list:${list}`, { kind: 'list', list, depth });
  }

  /** Takes a time (ms) of a calendar for the person, in place of what they have booked there. */
  book(
    { id: calendarId, calendar }: CalendarFacts,
    from: number,
    fields: { day: string; time: string },
    at: StepAt,
  ): void {
    const moves = this.booked.find((each) => each.calendarId === calendarId)?.id ?? null;
    const id = moves ?? this.turn.newId();
    this.booked = [...this.booked.filter((each) => each.id !== id), { id, calendarId, from }];
    this.turn.effects.push({
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

  unbook({ id: calendarId, calendar }: CalendarFacts, at: StepAt): boolean {
    const gone = this.booked.find((each) => each.calendarId === calendarId);
    if (!gone) return false;
    this.booked = this.booked.filter((each) => each !== gone);
    this.turn.effects.push({
      kind: 'cancel booking',
      id: gone.id,
      calendar: calendar.name,
      from: gone.from,
      at,
    });
    return true;
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
