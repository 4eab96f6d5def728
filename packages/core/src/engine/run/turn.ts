import { languageOf, type PersonFacts } from '../../people/person';
import type { Run } from './run';
import type { Effect, Left, Note, StepWorld } from '../steps';
import type { Standing } from './standing';
import { zoneOf, type World } from './world';
import { Voice } from './voice';
import { Runs } from './runs';
import { Playing } from './playing';
import { Replies } from './replies';
import { Changes } from './changes';

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
  /** What the person has written in this event, as long as nothing has read it. */
  words: string | null = null;
  readonly #timers = new Map<string, Extract<Effect, { kind: 'timer' }> | null>();
  #made = 0;

  readonly runs: Runs;
  readonly voice: Voice;
  readonly changes: Changes;
  readonly playing = new Playing(this);
  readonly replies = new Replies(this);

  constructor(readonly world: World) {
    // One level deep: what lies below is replaced, never changed in place.
    this.person = { ...world.person };
    this.standing = { ...world.standing };
    this.zone = zoneOf(world.person, world.client, world.number ?? null);
    this.language = languageOf(world.person, world.client);
    this.runs = new Runs(this);
    this.voice = new Voice(this);
    this.changes = new Changes(this);
    this.person.ties = this.changes.ties();
  }

  /** The next id of what this event makes: they stay apart and in order. */
  newId(): string {
    return nthId(this.world.newRunId, this.#made++);
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

  /** All effects in order, the timers last. */
  allEffects(): Effect[] {
    return [
      ...this.effects,
      ...[...this.#timers].map(([key, timer]): Effect => timer ?? { kind: 'no timer', key }),
    ];
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
      holidays: this.world.holidays,
      calendars: this.world.calendars,
      booked: this.changes.booked,
      answers: run?.answers ?? {},
      cueId: run?.cueId ?? '',
    };
  }

  /**
   * Something happened that cues may wait for: it comes back as an event of its own, once this one is over.
   */
  raise(key: string, incoming: Extract<Effect, { kind: 'raise' }>['incoming']): void {
    if (this.world.cues.others.has(key)) this.effects.push({ kind: 'raise', incoming });
  }

  /** What waits for its turn is raised as soon as nobody is spoken with. */
  callLater(): void {
    if (this.standing.later.length === 0 || this.runs.foremost || this.standing.held) return;
    for (const { incoming } of this.standing.later) this.effects.push({ kind: 'raise', incoming });
    this.standing.later = [];
    this.dropTimer('later');
  }
}

/** The id counted on by `n`: UUIDs that one event hands out stay apart and in order. */
function nthId(id: string, n: number): string {
  if (n === 0) return id;
  const tail = (BigInt(`0x${id.slice(24)}`) + BigInt(n)) & 0xffffffffffffn;
  return id.slice(0, 24) + tail.toString(16).padStart(12, '0');
}
