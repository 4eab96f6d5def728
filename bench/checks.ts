import { Loop, type Surroundings } from '@dart-loop/core';
import { examine } from '@dart-loop/core/loops/check/examine';
import { openRehearsal, play } from '@dart-loop/core/engine/rehearsal/rehearsal';
import { stranger } from '@dart-loop/core/people/person';
import { median, print } from './figures';

const SCENES = 60;

/** A loop of 300 steps that leads on and back in so many ways that its paths have to be cut. */
function longLoop(): Loop {
  return Loop.parse({
    format: 'dart-loop/1',
    name: 'Long',
    lines: [],
    cues: [{ id: 'k', kind: 'keyword', words: ['go'], match: 'exactly' }],
    scenes: Array.from({ length: SCENES }, (_, at) => ({
      id: `s${at}`,
      name: `Scene ${at}`,
      steps: [
        {
          id: `a${at}`,
          kind: 'say',
          text: 'Hello {{ person.first_name | default: "there" }}, this is a text of some length that people read.',
        },
        {
          id: `b${at}`,
          kind: 'say',
          text: 'Which one?',
          choices: [
            { id: 'x', label: 'Boat', to: `s${(at + 1) % SCENES}` },
            { id: 'y', label: 'Bus please', to: 'next' },
            { id: 'z', label: 'None', to: `s${(at + 7) % SCENES}` },
          ],
          noReply: { after: '3h', to: 'end' },
        },
        {
          id: `c${at}`,
          kind: 'ask',
          text: 'How many?',
          reply: 'number',
          field: `n${at}`,
          retry: { times: 2, text: 'A number.' },
          otherwise: 'next',
          noReply: { after: '1d', to: 'end' },
        },
        { id: `d${at}`, kind: 'set', changes: [{ do: 'add tag', tag: 'x' }] },
        { id: `e${at}`, kind: 'say', text: `Thanks, noted {{ person.n${at} }}.` },
      ],
    })),
  });
}

/**
 * Findings, paths and takes of a long loop on five channels, as the worker works them out with every pause in
 * typing.
 */
export function checks(): void {
  const loop = longLoop();
  const lines: Surroundings['lines'] = (
    ['messenger', 'instagram', 'whatsapp', 'telegram', 'sms'] as const
  ).map((channel) => ({
    key: channel,
    channel,
    name: channel,
  }));
  const rounds = Array.from({ length: 15 }, () => {
    const start = performance.now();
    const { paths } = examine(loop, { lines, brief: {}, others: [] });
    return { took: performance.now() - start, paths: paths.length };
  });
  const client = {
    name: 'C',
    brief: {},
    country: 'GB',
    timeZone: 'UTC',
    languages: ['en'],
    openingHours: {},
  };
  const open = openRehearsal({
    loops: [loop],
    client,
    line: { key: 'sms', name: 'x', channel: 'sms' },
    person: stranger('p'),
    now: Date.UTC(2026, 10, 24, 10),
  });
  const one = median(
    Array.from({ length: 200 }, () => {
      const start = performance.now();
      play(open, { kind: 'text', text: 'go' });
      return performance.now() - start;
    }),
  );
  const took = median(rounds.map((round) => round.took));
  const { paths } = rounds[0]!;
  print(
    'checks and all paths of a 300-step loop, ms',
    took,
    `${paths} paths; the first turn of each played by the engine would take ${(one * paths).toFixed(0)} (${((one * paths) / took).toFixed(1)} times as long); reach 200`,
  );
}
