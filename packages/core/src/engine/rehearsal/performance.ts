import { CHANNELS } from '../../channels';
import {
  deliver,
  play,
  skip,
  startAt,
  wind,
  type Played,
  type Rehearsal,
  type RehearsalEntry,
} from './rehearsal';
import type { Incoming } from '../decide';
import type { Left } from '../steps';
import type { FromSources } from '../steps/fromSources';
import { incomingOf, type ScriptLine } from './script';

/**
 * One line that was performed: what happened, an expectation that was not met, or why the line cannot be
 * performed.
 */
export type Performed =
  | { kind: 'played'; entries: RehearsalEntry[]; trail: Left[] }
  | { kind: 'unmet'; entries: RehearsalEntry[]; reason: string }
  | { kind: 'unusable'; reason: string };

/**
 * Plays a written conversation line by line, as the lines come. What was sent out is answered by the line
 * after it, where that is an answer ("! 200"); else it counts as well received. {@link finish} is called
 * after the last line.
 */
export class Performance {
  /** Messages of ours since something last happened, for expectations. */
  #said: string[] = [];
  #trail: Left[] = [];
  /** `sources`: what they say, where they can be asked at once. */
  constructor(
    public rehearsal: Rehearsal,
    private readonly sources: ((question: string, before: string | null) => FromSources) | null = null,
  ) {}

  perform(line: ScriptLine): Performed {
    this.#trail = [];
    const received = line.kind === 'delivered' ? [] : this.finish();
    if (line.kind === 'expect') return this.#expect(line.words, received);
    this.#said = [];
    const played = this.#play(line);
    if (typeof played === 'string') return { kind: 'unusable', reason: played };
    const entries = [...received, ...this.#keep(played), ...this.#fromSources()];
    return { kind: 'played', entries, trail: this.#trail };
  }

  /** What is still unanswered out there is well received. */
  finish(): RehearsalEntry[] {
    const entries: RehearsalEntry[] = [];
    for (let played = this.#received(); played; played = this.#received())
      entries.push(...this.#keep(played));
    return entries;
  }

  #play(line: Exclude<ScriptLine, { kind: 'expect' }>): Played | string {
    if (line.kind === 'wind') return wind(this.rehearsal, line.ms);
    if (line.kind === 'skip') return skip(this.rehearsal) ?? 'nothing is waited for';
    if (line.kind === 'scene')
      return startAt(this.rehearsal, line.scene) ?? `there is no scene with the id “${line.scene}”`;
    if (line.kind === 'channel')
      return { rehearsal: { ...this.rehearsal, refuses: line.refuses }, entries: [], responses: [] };
    if (line.kind === 'delivered')
      return deliver(this.rehearsal, line) ?? 'nothing was sent out that could be answered';
    const event = incomingOf(line, this.rehearsal, CHANNELS[this.rehearsal.line.channel].taps);
    if (typeof event === 'string') return event;
    const played = play(this.rehearsal, event.incoming, event.said);
    const nothing = played.entries.length === 0 ? nothingStarts(event.incoming) : null;
    return nothing === null
      ? played
      : {
          ...played,
          entries: [{ at: this.rehearsal.now, from: 'stage', text: nothing, reason: '' }],
        };
  }

  #fromSources(): RehearsalEntry[] {
    const entries: RehearsalEntry[] = [];
    for (;;) {
      const [errand] = this.rehearsal.errands;
      if (!this.sources || errand?.kind !== 'ask sources') return entries;
      const body = this.sources(errand.question, errand.before);
      entries.push(...this.#keep(deliver(this.rehearsal, { ok: true, reason: '', body })!));
    }
  }

  #received(): Played | null {
    return deliver(this.rehearsal, { ok: true, reason: '', body: {} });
  }

  #keep(played: Played): RehearsalEntry[] {
    this.rehearsal = played.rehearsal;
    this.#trail.push(...played.responses.flatMap((response) => response.trail));
    for (const entry of played.entries) if (entry.from === 'us') this.#said.push(entry.text);
    return [...played.entries];
  }

  #expect(words: string | null, entries: RehearsalEntry[]): Performed {
    const met: Performed = { kind: 'played', entries, trail: this.#trail };
    if (words === null)
      return this.#said.length === 0
        ? met
        : { kind: 'unmet', entries, reason: `nothing was expected, and we said “${this.#said[0]}”` };
    const at = this.#said.findIndex((text) => text.includes(words));
    if (at < 0)
      return {
        kind: 'unmet',
        entries,
        reason: `“${words}” was expected, and we said ${this.#said.length === 0 ? 'nothing' : this.#said.map((text) => `“${text}”`).join(', ')}`,
      };
    this.#said = this.#said.slice(at + 1);
    return met;
  }
}

/** That no cue waits for what has happened, in a sentence; null for what never starts anything. */
function nothingStarts(incoming: Incoming): string | null {
  switch (incoming.kind) {
    case 'tag':
      return incoming.on
        ? `Nothing starts on the tag “${incoming.tag}”.`
        : `Nothing starts when the tag “${incoming.tag}” is taken off.`;
    case 'list':
      return `Nothing starts on joining the list “${incoming.list}”.`;
    case 'webhook':
      return `Nothing starts on the incoming webhook “${incoming.name}”.`;
    case 'lead':
      return `Nothing starts on the lead form “${incoming.form}”.`;
    default:
      return null;
  }
}
