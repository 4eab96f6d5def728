import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { differences, exitsOf, problemsOf, type Loop, type Step } from '../src';
import { loopJsonSchema, readLoopFile, writeLoopFile } from '../src/loops/file/loopFile';
import { DEMO_LOOPS } from './demoLoops';
import { SAILINGS } from './support';

const text = fc
  .string({ minLength: 1, maxLength: 60, unit: 'grapheme' })
  .map((each) => each.trim())
  .filter((each) => each !== '' && !each.includes('\u0000') && !/\p{C}|\p{Zl}|\p{Zp}/u.test(each));
const label = text;
const target = fc.constantFrom('next', 'end', 'scene-0');
const step = (id: string): fc.Arbitrary<Step> =>
  fc.oneof(
    fc.record({
      id: fc.constant(id),
      kind: fc.constant('say' as const),
      text,
      choices: fc
        .array(label, { minLength: 1, maxLength: 4 })
        .chain((labels) =>
          fc.tuple(
            ...labels.map((each, at) =>
              fc.record({ id: fc.constant(`c${at}`), label: fc.constant(each), to: target }),
            ),
          ),
        ),
    }),
    fc.record({
      id: fc.constant(id),
      kind: fc.constant('ask' as const),
      text,
      reply: fc.constantFrom('text', 'email', 'number'),
      field: fc.constantFrom('email', 'party_size'),
      retry: fc.record({ times: fc.integer({ min: 1, max: 5 }), text }),
      otherwise: target,
      noReply: fc.record({ after: fc.constantFrom('30m', '3h', '2d'), to: target }),
    }),
    fc.record({
      id: fc.constant(id),
      kind: fc.constant('set' as const),
      changes: fc.array(fc.record({ do: fc.constant('add tag' as const), tag: text }), {
        minLength: 1,
        maxLength: 3,
      }),
    }),
    fc.record({ id: fc.constant(id), kind: fc.constant('go' as const), to: target }),
  ) as fc.Arbitrary<Step>;
const loops: fc.Arbitrary<Loop> = fc.record({
  format: fc.constant('dart-loop/1' as const),
  name: text,
  lines: fc.uniqueArray(fc.constantFrom('sms', 'telegram')),
  cues: fc
    .array(fc.constantFrom('SAILINGS', 'Öffnungszeiten', 'время'), { minLength: 1, maxLength: 3 })
    .map((words) => [{ id: 'keyword', kind: 'keyword' as const, words, match: 'exactly' as const }]),
  scenes: fc
    .array(fc.array(fc.constant(0), { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 4 })
    .chain((shape) =>
      fc.tuple(
        ...shape.map((steps, scene) =>
          fc.record({
            id: fc.constant(`scene-${scene}`),
            name: text,
            steps: fc.tuple(...steps.map((_, at) => step(`s${scene}-${at}`))),
          }),
        ),
      ),
    ) as fc.Arbitrary<Loop['scenes']>,
});

test.each(['yaml', 'json'] as const)('export, import, export gives the same bytes in %s', (as) => {
  fc.assert(
    fc.property(loops, (loop) => {
      const once = writeLoopFile(loop, as);
      const read = readLoopFile(once);
      if (!read.ok) throw new Error(JSON.stringify(read.problems));
      expect(writeLoopFile(read.loop, as)).toBe(once);
      expect(read.loop).toEqual(JSON.parse(JSON.stringify(loop)));
    }),
    { numRuns: 80 },
  );
});

test('the demo’s files are read, are fit to be published, and come back the same', () => {
  for (const { name, text } of DEMO_LOOPS) {
    const read = readLoopFile(text);
    if (!read.ok) throw new Error(`${name}: ${JSON.stringify(read.problems)}`);
    expect(problemsOf(read.loop)).toEqual([]);
    const yaml = writeLoopFile(read.loop, 'yaml');
    expect(readLoopFile(yaml)).toMatchObject({ ok: true, loop: read.loop });
  }
});

const HEAD = 'format: dart-loop/1\nname: X\ncues: []\nscenes:\n';
describe('a wrong file is refused with line, column and a sentence', () => {
  test.each([
    ['name: [', 1, /not readable as YAML or JSON/],
    ['just words', 1, /begins with "format: dart-loop\/1"/],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: dance\n`,
      7,
      /not a kind of step; the kinds are say, ask, wait, .* and end. Found "dance"/,
    ],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: say\n        text: Hi\n        colour: red\n`,
      9,
      /“colour”, which is not known there/,
    ],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: say\n`,
      7,
      /Scene 1 \(A\), step 1, “text” is missing; expected a text/,
    ],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: go\n        to: nowhere\n`,
      7,
      /leads to the scene “nowhere”, which is not there/,
    ],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: ask\n        text: Q\n        reply: email\n        field: Email Address\n`,
      10,
      /small letters, digits or underscores/,
    ],
    [
      `${HEAD}  - name: A\n    steps:\n      - kind: say\n        text: Hi\n        choices: [{ label: A, to: end }]\n        noReply: { after: soon, to: end }\n`,
      10,
      /a whole number and a unit/,
    ],
    ['format: dart-loop/1\nname: X\nname: Y\ncues: []\nscenes: []\n', 3, /Map keys must be unique/],
    ['format: dart-loop/2\nname: X\ncues: []\nscenes: []\n', 1, /“format” must be "dart-loop\/1"/],
  ])('%#', (file, line, reason) => {
    const read = readLoopFile(file);
    expect(read.ok).toBe(false);
    if (read.ok) return;
    expect(read.problems[0]!.reason).toMatch(reason);
    expect(read.problems[0]!.line).toBe(line);
    expect(read.problems[0]!.column).toBeGreaterThanOrEqual(1);
  });
  test('a bomb of aliases and a file too large are refused too', () => {
    const bomb = [
      'a: &a [x,x,x,x,x,x,x,x,x]',
      ...[...'bcdefghi'].map(
        (name, at) => `${name}: &${name} [${Array(9).fill(`*${'abcdefghi'[at]}`).join(',')}]`,
      ),
    ].join('\n');
    expect(readLoopFile(bomb).ok).toBe(false);
    expect(readLoopFile('x'.repeat(1_000_001)).ok).toBe(false);
  });
});

test('ids that a file leaves out are made from names, the same every time', () => {
  const read = readLoopFile(
    `${HEAD}  - name: First scene\n    steps:\n      - { kind: say, text: a, choices: [{ label: "Yes, do", to: end }, { label: "Yes, do", to: end }] }\n      - { kind: say, text: b }\n`,
  );
  if (!read.ok) throw new Error(JSON.stringify(read.problems));
  const [scene] = read.loop.scenes;
  expect(scene!.id).toBe('first-scene');
  expect(scene!.steps.map((each) => each.id)).toEqual(['say', 'say-2']);
  expect(exitsOf(scene!.steps[0]!)).toHaveLength(2);
  expect((scene!.steps[0] as Extract<Step, { kind: 'say' }>).choices!.map((choice) => choice.id)).toEqual([
    'yes-do',
    'yes-do-2',
  ]);
});

test('the published JSON Schema is the one the code makes', () => {
  const published = JSON.parse(
    readFileSync(join(__dirname, '../../../docs/loop.schema.json'), 'utf8'),
  ) as unknown;
  expect(published).toEqual(JSON.parse(JSON.stringify(loopJsonSchema())));
});

describe('differences in words', () => {
  const change = (edit: (loop: Loop) => void) => {
    const after = structuredClone(SAILINGS);
    edit(after);
    return differences(SAILINGS, after);
  };
  test('none', () => expect(change(() => undefined)).toEqual([]));
  test('a question reworded and an exit added', () =>
    expect(
      change((loop) => {
        const ask = loop.scenes[1]!.steps[0] as Extract<Step, { kind: 'ask' }>;
        ask.text = 'And your email?';
        ask.noReply = { after: '1d', to: 'bye' };
      }),
    ).toEqual(['scene 2: question reworded, exit added']));
  test('choices, scenes and cues', () => {
    expect(
      change((loop) => void (loop.scenes[0]!.steps[0] as Extract<Step, { kind: 'say' }>).choices!.pop()),
    ).toEqual(['scene 1: choice removed']);
    expect(change((loop) => void loop.scenes.splice(3, 1))).toEqual(['scene 4 removed: Nudge']);
    expect(change((loop) => void loop.scenes.reverse())).toEqual(['scenes in another order']);
    expect(
      change((loop) => void loop.cues.push({ id: 'k2', kind: 'keyword', words: ['BOAT'], match: 'exactly' })),
    ).toEqual(['cue added: “BOAT” exactly']);
    expect(change((loop) => void loop.scenes[2]!.steps.pop())).toEqual(['scene 3: end removed']);
  });
});

describe('what stands in the way of publishing', () => {
  const problems = (edit: (loop: Loop) => void, known = {}) => {
    const loop = structuredClone(SAILINGS);
    edit(loop);
    return problemsOf(loop, known).map((problem) => problem.code);
  };
  test('each has its code', () => {
    expect(problems(() => undefined)).toEqual([]);
    expect(problems((loop) => void (loop.cues = []))).toEqual(['no cue']);
    expect(problems((loop) => void (loop.scenes[3]!.steps = []))).toEqual(['empty scene']);
    expect(problems((loop) => void loop.scenes.splice(1, 1))).toEqual(['missing target']);
    expect(
      problems((loop) => void ((loop.scenes[2]!.steps[0] as { text: string }).text = 'Hi {{ name }}')),
    ).toEqual(['merge field']);
    expect(problems(() => undefined, { types: { email: 'number' } })).toEqual(['field type']);
    expect(
      problems((loop) => void (loop.lines = ['fax']), { lines: [{ key: 'sms', channel: 'sms' }] }),
    ).toEqual(['unknown line']);
    expect(
      problems((loop) => void loop.scenes[2]!.steps.push(structuredClone(loop.scenes[1]!.steps[0]!))),
    ).toEqual(['double id']);
  });
});
