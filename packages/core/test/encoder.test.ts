import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import loadWabt from 'wabt';
import { readEncoder } from '../../../apps/server/src/answers/encoderFiles';
import { KERNEL } from '../src/answers/encoder/kernel';
import { encodedTexts, meaningsOf, nearnessOf } from '../src/answers/encoder/meaning';
import { readModel } from '../src/answers/encoder/model';
import { Vocabulary } from '../src/answers/encoder/vocabulary';

const encoder = readEncoder(__filename);

const product = (one: Float32Array, other: Float32Array): number =>
  one.reduce((sum, each, at) => sum + each * other[at]!, 0);
const near = (one: string, other: string) => {
  const [a, b] = encoder.encode([one, other]);
  return product(a!, b!);
};

/** The first numbers of some texts as the package's own way of running the model gives them. */
const GIVEN: [string, number[]][] = [
  ['can i bring my dog on the boat', [0.039253, 0.054344, 0.054949, -0.056642, -0.050651, 0.057679]],
  ['dogs travel free, on a lead.', [-0.041134, 0.031899, -0.003037, 0.01219, -0.01357, 0.060873]],
  ['how much is it? £6.40 ☕ ☕ a day', [0.046943, 0.033006, 0.047627, 0.018913, -0.022132, -0.014621]],
  ['x', [0.045262, -0.047781, 0.04894, 0.048022, 0.048839, -0.049015]],
];

describe('the encoder', () => {
  test('gives what the model gives elsewhere, alone and among others', () => {
    const texts = GIVEN.map(([text]) => text);
    for (const vectors of [encoder.encode(texts), texts.map((text) => encoder.encode([text])[0]!)])
      for (const [at, [, given]] of GIVEN.entries())
        for (const [each, number] of given.entries()) expect(vectors[at]![each]).toBeCloseTo(number, 5);
  });

  test('what means the same is nearer than what does not', () => {
    expect(near('is my puppy allowed on board', 'Dogs travel free.')).toBeGreaterThan(
      near('is my puppy allowed on board', 'Tickets are sold at the pier.'),
    );
  });

  test('any text becomes a vector of length 1, the same whatever stands beside it; an empty one none', () => {
    const texts = [
      '',
      '   ',
      '\u0000',
      '\ud800',
      '🙂🙂🙂',
      'שלום',
      'a'.repeat(50_000),
      'word '.repeat(3_000),
      'x',
    ];
    const vectors = encoder.encode(texts);
    for (const [at, text] of texts.entries()) {
      const length = Math.sqrt(product(vectors[at]!, vectors[at]!));
      expect(length).toBeCloseTo(text.trim() === '' ? 0 : 1, 5);
      const [alone] = encoder.encode([text]);
      expect(Math.max(...alone!.map((each, place) => Math.abs(each - vectors[at]![place]!)))).toBeLessThan(
        1e-5,
      );
    }
    expect(encoder.encode([])).toEqual([]);
  });

  test('the size of letters does not count', () => {
    expect(near('CAN I BRING MY DOG', 'can i bring my dog')).toBeCloseTo(1, 5);
  });

  test('weights that are missing are named', () => {
    const model = { weightsManifest: [{ weights: [] }] };
    expect(() => readModel({ model, weights: new ArrayBuffer(0), pieces: [] })).toThrow(
      /has no weights named “TimingSignal|has no weights named “module\/Embeddings_en/,
    );
  });
});

describe('a vocabulary', () => {
  const own = Array.from({ length: 6 }, (_, at) => [`<${at}>`, 0] as const);
  const words = new Vocabulary([
    ...own,
    ['▁', -3],
    ['▁a', -1],
    ['b', -2],
    ['ab', -1],
    ['▁ab', -4],
    ['c', -1],
  ]);

  test('cuts a text into the likeliest pieces', () => {
    expect(words.piecesOf('ab')).toEqual([7, 8]);
    expect(words.piecesOf('ab c')).toEqual([7, 8, 6, 11]);
    expect(words.piecesOf('')).toEqual([]);
  });

  test('what is in no piece is one sign, however much of it stands in a row', () => {
    expect(words.piecesOf('a??')).toEqual([7, 0]);
    expect(words.piecesOf('?c?')).toEqual([6, 0, 11, 0]);
  });
});

test('what a passage means is kept as bytes, and loses nothing that matters', () => {
  const passage = {
    ...{ source: 'page.md', headings: ['Dogs'], wordings: ['can i bring my puppy'] },
    sentences: ['Dogs travel free.', 'They stay on a lead.'],
  };
  expect(encodedTexts(passage)).toEqual([
    'Dogs',
    'Dogs: Dogs travel free. They stay on a lead.',
    'Dogs: Dogs travel free.',
    'Dogs: They stay on a lead.',
    'can i bring my puppy',
  ]);
  const [rows] = meaningsOf(encoder, [passage]);
  const [question, ...texts] = encoder.encode(['is my puppy allowed', ...encodedTexts(passage)]);
  const exact = texts.map((text) => product(question!, text));
  const nearness = nearnessOf(question!, passage, rows!);
  expect(nearness.heading).toBeCloseTo(exact[0]!, 2);
  expect(nearness.whole).toBeCloseTo(exact[1]!, 2);
  expect(nearness.sentence).toBeCloseTo(Math.max(exact[2]!, exact[3]!), 2);
  expect(nearness.wording).toBeCloseTo(exact[4]!, 2);
});

test('the kernel is what its source compiles to', async () => {
  // Where this fails, put what it prints into kernel.ts.
  const source = readFileSync(join(__dirname, '../src/answers/encoder/kernel.wat'), 'utf8');
  const { parseWat } = await loadWabt();
  const { buffer } = parseWat('kernel.wat', source, { simd: true }).toBinary({});
  expect(Buffer.from(KERNEL).toString('base64')).toBe(Buffer.from(buffer).toString('base64'));
});
