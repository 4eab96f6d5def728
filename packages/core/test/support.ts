import {
  indexCues,
  WEEKDAYS,
  stranger,
  type Calendar,
  type CalendarFacts,
  type ClientFacts,
  type Incoming,
  type Loop,
  type LoopVersion,
  type PersonFacts,
  type Response,
  type Run,
  type World,
} from '../src';
import type { HolidayTable } from '../src/time/holidayTable';
import { readLoopFile } from '../src/loops/file/loopFile';
import {
  deliver,
  openRehearsal,
  play,
  wind,
  type Played,
  type Rehearsal,
} from '../src/engine/rehearsal/rehearsal';

/** A loop from its file text; the test fails with the file's own sentences when it cannot be read. */
export function loopOf(yaml: string): Loop {
  const read = readLoopFile(yaml);
  if (!read.ok)
    throw new Error(
      read.problems.map((problem) => `${problem.line}:${problem.column} ${problem.reason}`).join('\n'),
    );
  return read.loop;
}

export const nobodyYet: PersonFacts = { ...stranger('p1'), firstName: 'Mira' };
export const FERRIES: ClientFacts = {
  name: 'Saltmarsh Ferries',
  brief: { phone: '+44 1632 960144' },
  country: 'GB',
  timeZone: 'Europe/London',
  languages: ['en'],
  openingHours: {},
};
/** A Tuesday, nine in the morning in London. */
export const NINE = Date.UTC(2026, 10, 24, 9, 0);

/** An hour from nine to five on working days with one place, a day's notice, two weeks ahead. */
export const trialSession = (
  more: Partial<Calendar> = {},
  taken: CalendarFacts['taken'] = [],
): CalendarFacts => ({
  id: '00000000-0000-7000-8000-0000000000ca',
  calendar: {
    name: 'Trial session',
    hours: Object.fromEntries(WEEKDAYS.slice(0, 5).map((day) => [day, [{ from: '09:00', to: '17:00' }]])),
    length: '1h',
    notice: '1d',
    ahead: '14d',
    places: 1,
    ...more,
  },
  taken,
});

/** Plays a conversation against published loops, as the lane does, and remembers everything. */
export class Conversation {
  rehearsal: Rehearsal;
  readonly responses: Response[] = [];

  constructor(
    loops: Loop[],
    channel: 'telegram' | 'sms' = 'telegram',
    fields: World['fields'] = {},
    more: {
      client?: Partial<ClientFacts>;
      person?: Partial<PersonFacts>;
      now?: number;
      lists?: World['lists'];
      calendars?: CalendarFacts[];
      holidays?: HolidayTable;
    } = {},
  ) {
    this.rehearsal = openRehearsal({
      loops,
      client: { ...FERRIES, ...more.client },
      line: { key: channel, name: 'the line', channel },
      person: { ...nobodyYet, ...more.person },
      now: more.now ?? NINE,
      fields,
      lists: more.lists,
      calendars: more.calendars,
      holidays: more.holidays,
    });
  }

  get now(): number {
    return this.rehearsal.now;
  }
  get person(): PersonFacts {
    return this.rehearsal.person;
  }
  get runs(): readonly Run[] {
    return this.rehearsal.runs;
  }
  /** The run that speaks with the person. */
  get run(): Run | null {
    return this.runs.findLast((run) => run.status === 'under way') ?? null;
  }

  world(incoming: Incoming): World {
    const versions = this.rehearsal.versions as LoopVersion[];
    return {
      now: this.now,
      client: this.rehearsal.client,
      line: this.rehearsal.line,
      fields: this.rehearsal.fields,
      person: this.person,
      standing: this.rehearsal.standing,
      runs: this.runs.filter((run) => run.status === 'under way'),
      tappedRun:
        incoming.kind === 'tap' ? (this.runs.find((run) => run.id === incoming.runId) ?? null) : null,
      cues: indexCues(versions),
      version: (loopId, version) =>
        versions.find((each) => each.loopId === loopId && each.version === version) ?? null,
      liveLoop: (name) => versions.find((each) => each.loop.name === name) ?? null,
      newRunId: `00000000-0000-7000-8000-${String(this.runs.length + 1).padStart(12, 'a')}`,
    };
  }

  #remember(played: Played): Played {
    this.rehearsal = played.rehearsal;
    this.responses.push(...played.responses);
    return played;
  }

  /** The answer to the event itself, without what it raised. */
  hears(incoming: Incoming, eventId?: string): Response {
    return this.#remember(play(this.rehearsal, incoming, null, eventId ?? null)).responses[0]!;
  }

  /** What we say to a text, one string per message. */
  says(text: string): string[] {
    return heardIn(this.#remember(play(this.rehearsal, { kind: 'text', text }, text)));
  }

  /** What we say to anything that happens. */
  on(incoming: Incoming): string[] {
    return heardIn(this.#remember(play(this.rehearsal, incoming)));
  }

  taps(label: string): string[] {
    const choice = this.rehearsal.offered.find((each) => each.label === label);
    if (!choice)
      throw new Error(
        `“${label}” cannot be tapped; there are ${this.rehearsal.offered.map((each) => each.label).join(', ')}`,
      );
    return this.on({ kind: 'tap', ...choice.ref, label });
  }

  /** What we say while so much time passes: "3h", "2d". */
  later(time: string): string[] {
    const unit = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 }[time.slice(-1) as 's'];
    return heardIn(this.#remember(wind(this.rehearsal, Number(time.slice(0, -1)) * unit)));
  }

  delivers(outcome: { ok: boolean; reason?: string; body?: unknown }): string[] {
    return heardIn(this.#remember(deliver(this.rehearsal, { reason: '', body: {}, ...outcome })!));
  }

  /** Lets the waiting step's timer fall due. */
  waits(): string[] {
    if (!this.run) return [];
    return this.on({ kind: 'timer', runId: this.run.id, turn: this.run.turn, what: 'run' });
  }

  notes(): string[] {
    return this.responses.flatMap((response) => response.notes.map((note) => note.code));
  }
}

function heardIn(played: Played): string[] {
  return played.responses.flatMap(texts);
}

export function texts(response: Response): string[] {
  return response.effects.flatMap((effect) => (effect.kind === 'send' ? [effect.said.text] : []));
}

export const SAILINGS = loopOf(`
format: dart-loop/1
name: Sailing alerts
cues:
  - { kind: keyword, words: [SAILINGS], match: exactly }
scenes:
  - id: welcome
    name: Welcome
    steps:
      - id: hello
        kind: say
        text: 'Hello {{ person.first_name | default: "there" }}. Want alerts?'
        choices:
          - { label: "Yes, keep me posted", to: email }
          - { label: Not today, to: bye }
        noReply: { after: 3h, to: nudge }
  - id: email
    name: Email
    steps:
      - id: mail
        kind: ask
        text: Your email?
        reply: email
        field: email
        retry: { times: 2, text: That is no email. }
        otherwise: bye
      - { kind: set, changes: [{ do: add tag, tag: alerts }] }
      - { kind: say, text: "Thanks, {{ person.email }}." }
  - id: bye
    name: Bye
    steps:
      - { kind: say, text: Another time. }
      - { kind: end }
  - id: nudge
    name: Nudge
    steps:
      - { kind: say, text: Still there? }
      - { kind: go, to: bye }
`);
