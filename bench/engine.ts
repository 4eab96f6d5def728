import { createMachine, initialTransition, transition, assign } from 'xstate';
import {
  indexCues,
  hear,
  newStanding,
  respond,
  stranger,
  type ClientFacts,
  type Loop,
  type LoopVersion,
  type World,
} from '@dart-loop/core';
import { readLoopFile } from '@dart-loop/core/loops/file/loopFile';
import { fold } from '@dart-loop/core/language/fold';
import { median, print } from './figures';

const ROUNDS = 9;

const CLIENT: ClientFacts = {
  name: 'Saltmarsh Ferries',
  brief: {},
  country: 'GB',
  timeZone: 'Europe/London',
  languages: ['en'],
  openingHours: {},
};

function loopOf(text: string): Loop {
  const read = readLoopFile(text);
  if (!read.ok) throw new Error(JSON.stringify(read.problems));
  return read.loop;
}

/** Microseconds of one call, the median of several rounds. */
function time(calls: number, work: (at: number) => void): number {
  for (let at = 0; at < calls / 4; at++) work(at);
  return median(
    Array.from({ length: ROUNDS }, () => {
      const start = performance.now();
      for (let at = 0; at < calls; at++) work(at);
      return ((performance.now() - start) * 1_000) / calls;
    }),
  );
}

/** A run waits at a say with two choices; a typed answer leads to a scene that says a text and ends. */
const LOOP = `
format: dart-loop/1
name: Alerts
cues: [{ kind: keyword, words: [sailings], match: exactly }]
scenes:
  - name: Welcome
    steps:
      - { id: ask, kind: say, text: Want alerts?, choices: [{ id: yes, label: "Yes", to: done }, { id: no, label: "No", to: end }] }
  - { id: done, name: Done, steps: [{ kind: set, changes: [{ do: add tag, tag: alerts }] }, { kind: say, text: You are on. }] }
`;

/**
 * One step of the engine, from event to effects, beside the same transition in a general state-machine
 * library.
 */
export async function engineStep(): Promise<void> {
  const version: LoopVersion = {
    loopId: '01a20b8f-667f-7000-a147-df421ca054e2',
    version: 1,
    loop: loopOf(LOOP),
  };
  const world: World = {
    now: Date.UTC(2026, 10, 25, 10),
    client: CLIENT,
    line: { key: 'telegram', name: 'x', channel: 'telegram' },
    fields: {},
    person: stranger('p'),
    standing: newStanding(),
    runs: [],
    tappedRun: null,
    cues: indexCues([version]),
    version: () => version,
    liveLoop: () => version,
    newRunId: '01a20b8f-667f-7000-a147-df421ca054e3',
  };
  const started = respond(world, { kind: 'text', text: 'sailings' });
  const waiting: World = { ...world, person: started.person, standing: started.standing, runs: started.runs };
  const tap = {
    kind: 'tap',
    runId: started.runs[0]!.id,
    stepId: 'ask',
    choiceId: 'yes',
    label: 'Yes',
  } as const;
  const ours = time(20_000, () => respond(waiting, tap));

  // The same as a machine: the tap is a guarded event, the tag an assignment, the texts actions, the end a
  // final state.
  const machine = createMachine({
    id: 'alerts',
    initial: 'ask',
    context: { tags: [] as string[], stepId: 'ask' },
    states: {
      ask: {
        entry: [{ type: 'say' }],
        on: {
          tap: [
            {
              guard: ({ event }) => (event as unknown as { choiceId: string }).choiceId === 'yes',
              target: 'tagged',
              actions: assign({ tags: ({ context }) => [...context.tags, 'alerts'] }),
            },
            {
              guard: ({ event }) => (event as unknown as { choiceId: string }).choiceId === 'no',
              target: 'end',
            },
          ],
        },
      },
      tagged: { entry: [{ type: 'say' }], always: { target: 'end' } },
      end: { type: 'final' },
    },
  });
  const [before] = initialTransition(machine);
  const theirs = time(20_000, () => transition(machine, before, { type: 'tap', choiceId: 'yes' } as never));
  print(
    'one step of the run engine, µs',
    ours,
    `a general state-machine library ${theirs.toFixed(1)}; ${(theirs / ours).toFixed(1)} times faster; reach 5`,
  );
}

const WORDS =
  'sail ferry boat crossing island ticket return single bicycle dog timetable storm moved cancelled harbour pier morning evening saturday sunday summer winter child senior group bus train parking luggage wheelchair café toilet weather wind tide lost found refund change booking deck cabin'.split(
    ' ',
  );
const FILLING =
  'hello could you please tell me whether there is still a and when it goes thanks so much'.split(' ');

/**
 * Deciding among 100,000 keywords of 1,000 clients, beside a loop of compiled regular expressions over one
 * client's own.
 */
export async function keywords(): Promise<void> {
  let seed = 7;
  const chance = (most: number) => (seed = (Math.imul(seed, 1_103_515_245) + 12_345) & 0x7fffffff) % most;
  const word = () => WORDS[chance(WORDS.length)]!;
  const matches = ['exactly', 'first word', 'whole word', 'part'] as const;
  const clients = Array.from({ length: 1_000 }, (_, client) =>
    Array.from({ length: 20 }, (_, loop): LoopVersion => ({
      loopId: `${client}-${loop}`,
      version: 1,
      loop: {
        format: 'dart-loop/1',
        name: `Loop ${loop}`,
        lines: [],
        scenes: [],
        cues: [
          {
            id: 'k',
            kind: 'keyword',
            match: matches[loop % 4]!,
            slip: loop % 8 === 2,
            words: Array.from({ length: 5 }, (_, at) => `${word()} ${word()}${at % 2 ? '' : chance(1_000)}`),
          },
        ],
      },
    })),
  );
  const indices = clients.map(indexCues);
  const texts = Array.from({ length: 500 }, () =>
    Array.from({ length: 3 + chance(12) }, () =>
      chance(3) === 0 ? word() : FILLING[chance(FILLING.length)]!,
    ).join(' '),
  );
  const escape = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  const expressions = clients.map((versions) =>
    versions.flatMap(({ loop }) =>
      loop.cues.flatMap((cue) =>
        cue.kind === 'keyword'
          ? cue.words.map(
              (each) =>
                new RegExp(
                  {
                    exactly: `^${escape(fold(each))}$`,
                    'first word': `^${escape(fold(each))}(?: |$)`,
                    'whole word': `(?:^| )${escape(fold(each))}(?: |$)`,
                    part: escape(fold(each)),
                    pattern: each,
                  }[cue.match],
                  'u',
                ),
            )
          : [],
      ),
    ),
  );
  const ours = time(20_000, (at) => hear(indices[at % 1_000]!, texts[at % 500]!, 'sms'));
  const theirs = time(5_000, (at) => {
    const said = fold(texts[at % 500]!);
    return expressions[at % 1_000]!.filter((each) => each.test(said));
  });
  print(
    'decide among 100,000 keywords of 1,000 clients, µs',
    ours,
    `a loop of compiled regular expressions over the client's 100: ${theirs.toFixed(1)}; ${(theirs / ours).toFixed(1)} times faster; reach 1, under 50 µs`,
  );
}
