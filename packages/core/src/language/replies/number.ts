import { saysDontKnow } from '../answers';
import { fold } from '../fold';
import { numbersIn, valueInWords } from '../numerals';
import { scopeOf } from '../scope';
import { asRead, unread, type ReplyReader } from './reading';

const WORDS: Record<string, number> = {
  none: 0,
  nil: 0,
  zero: 0,
  one: 1,
  two: 2,
  three: 3,
  four: 4,
  five: 5,
  six: 6,
  seven: 7,
  eight: 8,
  nine: 9,
  ten: 10,
  eleven: 11,
  twelve: 12,
  thirteen: 13,
  fourteen: 14,
  fifteen: 15,
  sixteen: 16,
  seventeen: 17,
  eighteen: 18,
  nineteen: 19,
  twenty: 20,
  thirty: 30,
  forty: 40,
  fifty: 50,
  sixty: 60,
  seventy: 70,
  eighty: 80,
  ninety: 90,
  single: 1,
  couple: 2,
  pair: 2,
};
const SPOKEN_SCALES = new Map([
  ['dozen', 12],
  ['hundred', 100],
  ['thousand', 1_000],
  ['million', 1_000_000],
]);
const SCALES: Record<string, number> = {
  k: 1_000,
  thousand: 1_000,
  m: 1_000_000,
  million: 1_000_000,
  hundred: 100,
  dozen: 12,
};
const FIGURE =
  /(?<![\p{L}\d])[-−]?[£$€]?\s?\d[\d.,'’\u00a0\u202f]*(?:\s\d{3})*(?:\s?(?:k|m|thousand|million|hundred|dozen))?(?![\p{L}\d])/giu;

export const number: ReplyReader = {
  type: 'number',
  words: 'a number',
  example: '12',
  /**
   * Reads "1,250.50", "1.250,50", "£12", "2k", "a dozen", "twenty-one" and "3 of us". Two different numbers
   * are not guessed between.
   */
  read(said, { language }) {
    if (saysDontKnow(fold(said))) return unread('it says that they do not know');
    // What is said not to be meant is no answer; "no" alone is none of a thing.
    const scope = scopeOf(said);
    if (scope && scope.meant.length === 0 && /\p{N}|\p{L}{3}/u.test(scope.excluded.join('')))
      return unread('it says what is not meant');
    const written = withHalves(scope && scope.meant.length > 0 ? scope.meant.join(' ') : said);
    const figures = [...written.matchAll(FIGURE)]
      .map((match) => figure(match[0]))
      .filter((value) => value !== null);
    const different = [...new Set(figures)];
    if (different.length > 1) return unread('it holds more than one number');
    if (different.length === 1) return asRead({ type: 'number', value: different[0]! });
    const spoken = inWords(fold(written).split(' ')) ?? valueInWords(written, language) ?? null;
    if (spoken !== null)
      return asRead({ type: 'number', value: spoken }, 0.9, String(spoken), 'it is said in words');
    const within = new Set(language === 'en' ? [] : numbersIn(fold(written).split(' '), language));
    if (within.size > 1) return unread('it holds more than one number');
    for (const value of within)
      return asRead({ type: 'number', value }, 0.8, String(value), 'it is said in words, among others');
    return unread('there is no number in it');
  },
};

const WORD_AND_HALF = new RegExp(`\\b(${Object.keys(WORDS).join('|')}) and a half\\b`, 'gi');

/** "Two and a half", "2½" and "half a dozen" in figures. */
const withHalves = (written: string): string =>
  written
    .replace(/(?<!\d)(\d+)\s{0,3}½/g, '$1.5')
    .replace(/½/g, '0.5')
    .replace(/\b(\d+) and a half\b/gi, '$1.5')
    .replace(WORD_AND_HALF, (_, one: string) => `${WORDS[one.toLowerCase()]}.5`)
    .replace(/\bhalf a dozen\b/gi, '6');

/** A number written in figures, with either decimal sign; null when its separators make no sense. */
function figure(written: string): number | null {
  const [, sign, body, scale] =
    /^([-−]?)[£$€]?\s?([\d.,'’\s]*\d)[.,]?\s?([a-z]*)$/i.exec(written.trim()) ?? [];
  if (!body) return null;
  let digits = body.replace(/['’\s]/g, '');
  const dot = digits.lastIndexOf('.');
  const comma = digits.lastIndexOf(',');
  const decimal =
    dot >= 0 && comma >= 0 ? (dot > comma ? '.' : ',') : loneSeparator(digits, dot >= 0 ? '.' : ',');
  const group = decimal === '.' ? ',' : '.';
  digits = digits.split(group).join('');
  if (decimal) digits = digits.replace(decimal, '.');
  else digits = digits.replace(/[.,]/g, '');
  if (!/^\d+(\.\d+)?$/.test(digits)) return null;
  const value = Number(digits) * (scale ? (SCALES[scale.toLowerCase()] ?? 1) : 1);
  return Number.isFinite(value) ? (sign ? -value : value) : null;
}

/** "1,250" and "1.250.000" group thousands; "12,5" and "0.250" have a decimal sign. */
function loneSeparator(digits: string, sign: '.' | ','): '.' | ',' | null {
  const parts = digits.split(sign);
  if (parts.length === 1) return null;
  if (parts.length > 2) return null;
  const [whole, rest] = parts as [string, string];
  return rest.length === 3 && whole !== '0' && whole.length <= 3 && sign === ',' ? null : sign;
}

/**
 * "twenty-one", "a hundred and five", "two thousand", "a couple of dozen"; null for none, and for two
 * different ones.
 */
function inWords(words: string[]): number | null {
  const found: number[] = [];
  for (let at = 0; at < words.length;) {
    const [value, length] = spokenAt(words, at);
    if (value === null) at++;
    else {
      found.push(value);
      at += length;
    }
  }
  return new Set(found).size === 1 ? found[0]! : null;
}

const JOINING = new Set(['and', 'of', 'a']);

/**
 * The number that begins with a word, and how many words it takes. "A hundred" is one; "hundreds" is none.
 */
function spokenAt(words: string[], from: number): [number | null, number] {
  let total = 0;
  let part: number | null = null;
  let length = 0;
  const article = (words[from] === 'a' || words[from] === 'an') && SPOKEN_SCALES.has(words[from + 1] ?? '');
  for (let at = article ? from + 1 : from; at < words.length; at++) {
    const word = words[at]!;
    const value = WORDS[word];
    const scale = SPOKEN_SCALES.get(word);
    if (scale !== undefined) {
      if (part === null && total === 0 && !(article && at === from + 1) && word !== 'dozen') break;
      const times: number = part ?? 1;
      if (scale >= 1_000) {
        total += times * scale;
        part = null;
      } else part = times * scale;
    } else if (value !== undefined) {
      if (part === null) part = value;
      else if (part >= 100 && part % 100 === 0 && value < 100) part += value;
      else if (part % 100 >= 20 && part % 10 === 0 && value < 10) part += value;
      else break;
    } else if (length > 0 && JOINING.has(word) && at + 1 < words.length) {
      const next = words[at + 1]!;
      // "A hundred and five", "a couple of dozen"; but "two of us" ends after the two.
      if (WORDS[next] === undefined && !SPOKEN_SCALES.has(next)) break;
      if (word === 'and' && !(part === null || part >= 100)) break;
      continue;
    } else break;
    length = at - from + 1;
  }
  return length === 0 ? [null, 1] : [total + (part ?? 0), length];
}
