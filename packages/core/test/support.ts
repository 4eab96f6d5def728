import {
  indexCues,
  respond,
  type Incoming,
  type Loop,
  type LoopVersion,
  type PersonFacts,
  type Response,
  type Run,
  type World,
} from '../src';
import { readLoopFile } from '../src/files/loopFile';

/** A loop from its file text; the test fails with the file's own sentences when it cannot be read. */
export function loopOf(yaml: string): Loop {
  const read = readLoopFile(yaml);
  if (!read.ok) throw new Error(read.problems.map((problem) => `${problem.line}:${problem.column} ${problem.reason}`).join('\n'));
  return read.loop;
}

export const nobodyYet: PersonFacts = { id: 'p1', firstName: 'Mira', lastName: null, fields: {}, tags: [] };

/** Plays a conversation against published loops, as the lane does, and remembers everything. */
export class Conversation {
  now = Date.UTC(2026, 10, 24, 9, 0);
  person: PersonFacts = nobodyYet;
  run: Run | null = null;
  readonly past = new Map<string, Run>();
  readonly responses: Response[] = [];
  #runs = 0;
  readonly versions: LoopVersion[];

  constructor(
    loops: Loop[],
    readonly channel: 'telegram' | 'sms' = 'telegram',
    readonly fields: World['fields'] = {},
  ) {
    this.versions = loops.map((loop, index) => ({ loopId: `loop-${index + 1}`, version: 1, loop }));
  }

  world(incoming: Incoming): World {
    const id = String(++this.#runs).padStart(12, '0');
    return {
      now: this.now,
      client: { name: 'Saltmarsh Ferries', brief: { phone: '+44 1632 960144' }, country: 'GB', timeZone: 'Europe/London' },
      line: { key: this.channel, name: 'the line', channel: this.channel },
      fields: this.fields,
      person: this.person,
      run: this.run,
      tappedRun: incoming.kind === 'tap' ? (this.past.get(incoming.runId) ?? null) : null,
      cues: indexCues(this.versions),
      version: (loopId, version) => this.versions.find((each) => each.loopId === loopId && each.version === version) ?? null,
      newRunId: `00000000-0000-7000-8000-${id}`,
    };
  }

  hears(incoming: Incoming): Response {
    const response = respond(this.world(incoming), incoming);
    this.responses.push(response);
    this.person = response.person;
    for (const run of response.runs) this.past.set(run.id, run);
    const last = response.runs.at(-1);
    if (last) this.run = last.status === 'under way' ? last : null;
    return response;
  }

  /** What we say to a text, one string per message. */
  says(text: string): string[] {
    return texts(this.hears({ kind: 'text', text }));
  }

  /** Lets the waiting step's timer fall due. */
  waits(): string[] {
    if (!this.run) return [];
    return texts(this.hears({ kind: 'timer', runId: this.run.id, turn: this.run.turn }));
  }
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
