import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AnswerLine, answersJsonSchema, SheetLine } from '@dart-loop/core/answers/formats';
import { answer } from '../commands/answer';
import { sheet } from '../commands/sheet';

const folder = mkdtempSync(join(tmpdir(), 'sources-'));
const sheets = mkdtempSync(join(tmpdir(), 'sheets-'));
afterAll(() => {
  for (const each of [folder, sheets]) rmSync(each, { recursive: true });
});
let said: string[] = [];
beforeEach(() => {
  said = [];
  for (const way of ['log', 'error'] as const)
    jest.spyOn(console, way).mockImplementation((...words: unknown[]) => void said.push(words.join(' ')));
});
afterEach(() => jest.restoreAllMocks());

writeFileSync(
  join(folder, 'a.md'),
  '# Boats\n\n## Dogs\n\nDogs travel free, on a lead.\n\n## Bicycles\n\nA bicycle costs £2.\n',
);
writeFileSync(join(folder, 'b.pdf'), 'not read');
writeFileSync(
  join(sheets, 'right.csv'),
  'question,contains,known\nare dogs allowed,lead,yes\nis there wifi,,no\n',
);
writeFileSync(join(sheets, 'worse.csv'), 'question,contains,least\nare dogs allowed,muzzle,answer\n');

test('a question is answered from a folder, in words or as an object; what is not read is said', async () => {
  expect(await answer([folder, 'are dogs allowed'])).toBe(0);
  expect(said[0]).toBe('b.pdf is left out. It is no PDF, or a damaged one.');
  expect(said[1]).toMatch(/^Dogs travel free, on a lead\.\n {2}\(a\.md#Dogs, \d+ % sure\)$/);
  said = [];
  expect(await answer([folder, 'what colour is the moon', '--json'])).toBe(1);
  expect(JSON.parse(said[1]!)).toMatchObject({ zone: 'not known', text: null, passages: [] });
});

test('a sheet ends with 1 where something came out worse than expected, and says what', async () => {
  expect(await sheet([folder, join(sheets, 'right.csv')])).toBe(0);
  said = [];
  expect(await sheet([folder, join(sheets, 'worse.csv')])).toBe(1);
  expect(said.join('\n')).toContain(
    'Worse than expected, answered wrongly: “are dogs allowed”: Dogs travel free, on a lead.',
  );
});

test('what is given in JSON is as its schema says, and the published schema is the one the code makes', async () => {
  await answer([folder, 'are dogs allowed', '--json']);
  await sheet([folder, join(sheets, 'right.csv'), '--json']);
  const [first, ...others] = said
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line) as unknown);
  expect(AnswerLine.strict().safeParse(first).success).toBe(true);
  expect(others).toHaveLength(2);
  for (const each of others) expect(SheetLine.strict().safeParse(each).success).toBe(true);
  const published = readFileSync(join(__dirname, '../../docs/answers.schema.json'), 'utf8');
  expect(JSON.parse(published)).toEqual(JSON.parse(JSON.stringify(answersJsonSchema())));
});

test('what cannot be used is said in a sentence', async () => {
  await expect(answer([folder])).rejects.toThrow('Name a folder of sources and ask a question.');
  await expect(answer([join(folder, 'a.md'), 'x'])).rejects.toThrow('is no folder');
  await expect(answer([folder, 'x', '--length', '5'])).rejects.toThrow('--length is a number of characters');
  await expect(sheet([folder, join(folder, 'b.pdf')])).rejects.toThrow('one of them “question”');
});
