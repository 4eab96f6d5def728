import fc from 'fast-check';
import {
  KEYWORD_MATCHES,
  fold,
  hear,
  indexCues,
  slips,
  type KeywordMatch,
  type Loop,
  type LoopVersion,
} from '../src';

const WORDS = ['open', 'hours', 'opening hours', 'Open now', 'news', 'trial climb', 'é', 'Öffnung'];
const cue = fc.record({
  words: fc.uniqueArray(fc.constantFrom(...WORDS), { minLength: 1, maxLength: 3 }),
  match: fc.constantFrom(...KEYWORD_MATCHES),
  lines: fc.option(fc.uniqueArray(fc.constantFrom('sms', 'telegram'), { minLength: 1 }), { nil: undefined }),
  slip: fc.boolean(),
});
const versions = fc
  .array(fc.array(cue, { minLength: 1, maxLength: 3 }), { minLength: 1, maxLength: 4 })
  .map((loops) =>
    loops.map((cues, at): LoopVersion => ({
      loopId: `loop-${at}`,
      version: 1,
      loop: {
        format: 'dart-loop/1',
        name: `Loop ${at}`,
        lines: [],
        scenes: [],
        cues: cues.map((each, n) => ({
          ...each,
          slip: each.slip && each.match !== 'part' && each.match !== 'pattern',
          kind: 'keyword',
          id: `c${n}`,
        })),
      } as Loop,
    })),
  );
const text = fc
  .array(
    fc.constantFrom(
      'open',
      'OPEN!',
      'hours',
      'huors',
      'hour',
      'openning',
      'now',
      'news,',
      'trial',
      'trail',
      'climb',
      'e',
      'öffnung',
      '🎉',
      'please',
    ),
    { maxLength: 6 },
  )
  .map((words) => words.join(' '));

/** The rule as it is told, without any index. */
function heardPlainly(all: LoopVersion[], said: string, line: string): string[] {
  const words = fold(said).split(' ').filter(Boolean);
  const fits = (keyword: string, match: KeywordMatch, slip: boolean) => {
    if (match === 'part') return words.join(' ').includes(fold(keyword));
    if (match === 'pattern') return new RegExp(keyword, 'iu').test(said);
    const parts = fold(keyword).split(' ');
    const same = (part: string, word: string | undefined) =>
      part === word || (slip && part.length >= 5 && word !== undefined && slips(part, word, 1) <= 1);
    const at = (from: number) => parts.every((part, index) => same(part, words[from + index]));
    if (match === 'exactly') return parts.length === words.length && at(0);
    if (match === 'first word') return words.length >= parts.length && at(0);
    return words.some((_, from) => at(from));
  };
  return all
    .flatMap(({ loopId, loop }) =>
      loop.cues.flatMap((each) =>
        (each.kind === 'keyword' ? each.words : [])
          .filter(
            (word) =>
              (!each.lines || each.lines.includes(line)) &&
              each.kind === 'keyword' &&
              fits(word, each.match, each.slip ?? false),
          )
          .map((word) => `${loopId}/${each.id}/${word}`),
      ),
    )
    .sort();
}

test('the index hears exactly what the rule says, whatever the cues', () => {
  fc.assert(
    fc.property(versions, text, fc.constantFrom('sms', 'telegram'), (all, said, line) => {
      const heard = hear(indexCues(all), said, line);
      expect(heard.map((each) => `${each.loopId}/${each.cue.id}/${each.keyword}`).sort()).toEqual(
        heardPlainly(all, said, line),
      );
      // And in the order of preference.
      const ranks = heard.map((each) => KEYWORD_MATCHES.indexOf(each.match));
      expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
    }),
    { numRuns: 300 },
  );
});

test('nothing is heard in silence, and a very long text is heard in its beginning', () => {
  const index = indexCues([
    {
      loopId: 'l',
      version: 1,
      loop: {
        format: 'dart-loop/1',
        name: 'L',
        lines: [],
        scenes: [],
        cues: [{ id: 'k', kind: 'keyword', words: ['open'], match: 'whole word' }],
      },
    },
  ]);
  expect(hear(index, '', 'sms')).toEqual([]);
  expect(hear(index, '🎉🎉', 'sms')).toEqual([]);
  expect(hear(index, `open ${'x '.repeat(100_000)}`, 'sms')).toHaveLength(1);
});

describe('keywords of emoji', () => {
  const hears = (words: string[], match: KeywordMatch, text: string) => {
    const loop: Loop = {
      format: 'dart-loop/1',
      name: 'Fire',
      lines: [],
      cues: [{ id: 'k', kind: 'keyword', words, match }],
      scenes: [],
    };
    return hear(indexCues([{ loopId: 'fire', version: 1, loop }]), text, 'sms').length > 0;
  };
  test.each<[KeywordMatch, string, boolean]>([
    ['exactly', '🔥', true],
    ['exactly', ' 🔥🔥 🔥! ', true],
    ['exactly', '🔥 please', false],
    ['exactly', '🔥👍', false],
    ['first word', '🔥 please', true],
    ['first word', 'please 🔥', false],
    ['whole word', 'please🔥thanks', true],
    ['whole word', 'please', false],
    ['part', 'so 👍🔥', true],
  ])('🔥 %s hears “%s”: %s', (match, text, is) => expect(hears(['🔥'], match, text)).toBe(is));
  test('looks make no difference: skin, style, joined signs, flags', () => {
    expect(hears(['👍'], 'exactly', '👍🏽')).toBe(true);
    expect(hears(['❤️'], 'exactly', '❤')).toBe(true);
    expect(hears(['👩‍🍳'], 'exactly', '👩🏻‍🍳')).toBe(true);
    expect(hears(['👩‍🍳'], 'exactly', '👩')).toBe(false);
    expect(hears(['🇵🇹'], 'whole word', 'from 🇵🇹 with love')).toBe(true);
    expect(hears(['🇵🇹'], 'whole word', 'from 🇮🇹 with love')).toBe(false);
  });
  test('a keyword with words is heard without its emoji, as before', () => {
    expect(hears(['open 🔥'], 'exactly', 'Open')).toBe(true);
    expect(hears(['🔥', 'open'], 'exactly', 'open 👍')).toBe(true);
  });
});

test('letters are folded as their readers read them', () => {
  expect(fold('Straße')).toBe(fold('STRASSE'));
  expect(fold('KAPI')).toBe(fold('kapı'));
  expect(fold('İSTANBUL')).toBe(fold('istanbul'));
  // With vowel marks and without.
  expect(fold('שָׁלוֹם')).toBe(fold('שלום'));
  expect(fold('مَرْحَبًا')).toBe(fold('مرحبا'));
  expect(fold('אור־יהודה')).toBe(fold('אור יהודה'));
  // Vowel signs that are letters of their script stay.
  expect(fold('हिन्दी')).not.toBe(fold('हन्द'));
  expect(fold('cœur')).toBe(fold('coeur'));
});

test('how an emoji looks leaves nothing behind', () => {
  expect(fold('open ❤️')).toBe('open');
  expect(fold('1️⃣')).toBe('1');
});
