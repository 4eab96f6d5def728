import { fold } from '../fold';
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
  dozen: 12,
};
const SCALES: Record<string, number> = { k: 1_000, thousand: 1_000, m: 1_000_000, million: 1_000_000, hundred: 100, dozen: 12 };
const FIGURE =
  /(?<![\p{L}\d])[-−]?[£$€]?\s?\d[\d.,'’\u00a0\u202f]*(?:\s\d{3})*(?:\s?(?:k|m|thousand|million|hundred|dozen))?(?![\p{L}\d])/giu;

export const number: ReplyReader = {
  type: 'number',
  words: 'a number',
  example: '12',
  /** Reads "1,250.50", "1.250,50", "£12", "2k", "a dozen", "twenty-one" and "3 of us". Two different numbers are not guessed between. */
  read(written) {
    const figures = [...written.matchAll(FIGURE)].map((match) => figure(match[0])).filter((value) => value !== null);
    const different = [...new Set(figures)];
    if (different.length > 1) return unread('it holds more than one number');
    if (different.length === 1) return asRead({ type: 'number', value: different[0]! });
    const spoken = inWords(fold(written).split(' '));
    if (spoken !== null) return asRead({ type: 'number', value: spoken }, 0.9);
    return unread('there is no number in it');
  },
};

/** A number written in figures, with either decimal sign; null when its separators make no sense. */
function figure(written: string): number | null {
  const [, sign, body, scale] = /^([-−]?)[£$€]?\s?([\d.,'’\s]*\d)[.,]?\s?([a-z]*)$/i.exec(written.trim()) ?? [];
  if (!body) return null;
  let digits = body.replace(/['’\s]/g, '');
  const dot = digits.lastIndexOf('.');
  const comma = digits.lastIndexOf(',');
  const decimal = dot >= 0 && comma >= 0 ? (dot > comma ? '.' : ',') : loneSeparator(digits, dot >= 0 ? '.' : ',');
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

function inWords(words: string[]): number | null {
  let total: number | null = null;
  let last = 0;
  for (const word of words) {
    const value = WORDS[word];
    if (value === undefined) {
      if (SCALES[word] && last > 0) total = total! * SCALES[word];
      continue;
    }
    if (total === null) total = value;
    else if (word === 'dozen') total *= 12;
    else if (last >= 20 && last % 10 === 0 && value < 10) total += value;
    else return null;
    last = value;
  }
  return total;
}
