import { LONGEST_NAME, type HolidayTable } from '../../time/holidayTable';
import { firstWords } from '../firstWords';
import { beginsNumeral, valueInWords } from '../numerals';
import { LONGEST, beginsPhrase, sensesOf, shortSenses, type Sense } from './senses';

/** Figures with something between them, as written: a day ("4/12/26"), a time ("8.15"), or either. */
export interface Figures {
  parts: number[];
  by: string;
  /** A point or stroke after the last. */
  open: boolean;
  /** Begins with a zero: "08:15" names its half of the day. */
  padded: boolean;
}

/** A word, a few that belong together, a number, or what parts them. */
export interface Token {
  /** Folded. */
  words: string;
  senses: readonly Sense[];
  figures?: Figures;
  /** How many figures a bare number has: "1500" may be a time. */
  digits?: number;
  isBreak?: boolean;
}

const PIECES = new RegExp(
  [
    String.raw`\d{4}(?<first>[./-])\d{1,2}\k<first>\d{1,2}(?!\d)`,
    String.raw`(?<![\d])\d{1,2}(?<by>[./-])\d{1,2}(?:\k<by>(?:\d{4}|\d{2}))?[./]?(?!\d)`,
    String.raw`\d{1,2}[:.h]\d{2}(?!\d)`,
    String.raw`\d+(?:st|nd|rd|th|er|ere|eme|o|a)(?!\p{L})`,
    String.raw`\d+\.(?=\s*\p{L}|\s*$)`,
    String.raw`\d+`,
    String.raw`\p{L}+`,
    String.raw`[,;?!.\n&/–—]`,
  ].join('|'),
  'gu',
);
const ARTICLES = new Set('el la le il no na am den este esta ce'.split(' '));
const GERMAN_DAY =
  /^(montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonnabend|sonntag)(fruh|morgen|vormittag|mittag|nachmittag|abend|nacht)s?$/;
const GERMAN_ORDINAL = /^(\p{L}+?)(?:s?te[nrs]?)$/u;

/** A day and a time need no more. */
const MOST_TOKENS = 80;

/** Folded as the words of our lists are: small, without accents, ß as ss. */
export const plain = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll('ß', 'ss')
    .replace(/(?<=new year|valentine)[’']s\b|(?<=valentine|new year)s[’']/g, 's')
    .replace(/\b(?:tonight|tonite|2nite|2night)\b/g, 'this evening')
    .replace(/o[’']clock/g, 'oclock')
    .replace(/\b([ap])\.? ?m\b\.?/g, '$1m')
    .replace(/(\d)(am|pm|ish|uhr|hrs?)\b/g, '$1 $2')
    .replace(/\b(\p{L}+)ish\b/gu, '$1 ish');

/**
 * What somebody wrote, cut into what it is made of, for the language they speak (ISO 639-1) and the holidays
 * of the client's country. Only the first 300 characters.
 */
export function tokensOf(written: string, language: string, holidays: HolidayTable = NONE): Token[] {
  const pieces = [...plain(written.slice(0, 300)).matchAll(PIECES)].flatMap(([piece]) => {
    const both = GERMAN_DAY.exec(piece);
    return both ? [both[1]!, both[2] === 'morgen' ? 'morgens' : both[2]!] : [piece];
  });
  const tokens: Token[] = [];
  for (let at = 0; at < pieces.length && tokens.length < MOST_TOKENS;) {
    const piece = pieces[at]!;
    if (/^\d/.test(piece)) {
      tokens.push(inFigures(piece));
      at++;
    } else if (!/^\p{L}/u.test(piece)) {
      tokens.push({ words: piece, senses: [], isBreak: true });
      at++;
    } else {
      const { token, length } = inWords(pieces, at, language, holidays);
      tokens.push(token);
      at += length;
    }
  }
  return tokens;
}

const NONE: HolidayTable = {};
const starts = new WeakMap<HolidayTable, Set<string>>();
function startsOf(holidays: HolidayTable): Set<string> {
  const known = starts.get(holidays) ?? firstWords(Object.keys(holidays));
  starts.set(holidays, known);
  return known;
}

/** The most words from here on that mean something together. */
function inWords(
  pieces: readonly string[],
  at: number,
  language: string,
  holidays: HolidayTable,
): { token: Token; length: number } {
  const short = shortSensesAt(pieces, at, language);
  if (short.length > 0) return { token: { words: pieces[at]!, senses: short }, length: 1 };
  let most = 1;
  const mayGoOn =
    beginsPhrase(pieces[at]!) || beginsNumeral(pieces[at]!) || startsOf(holidays).has(pieces[at]!);
  while (mayGoOn && most < Math.max(LONGEST, LONGEST_NAME) && /^\p{L}/u.test(pieces[at + most] ?? '')) most++;
  for (let length = most; length >= 1; length--) {
    // "El día" is a word of its own, but not in "el Día de la Constitución".
    if (length > 1 && holidayBehind(pieces, at, length, holidays)) continue;
    const words = pieces.slice(at, at + length).join(' ');
    const senses = [...sensesOf(words, language)];
    const value = valueInWords(words, language);
    if (value !== undefined) senses.push({ is: 'number', n: value });
    if (senses.length === 0 && Object.hasOwn(holidays, words))
      senses.push({ is: 'holiday', days: holidays[words]! });
    if (length === 1 && senses.length === 0) senses.push(...germanOrdinal(words));
    if (senses.length > 0) return { token: { words, senses }, length };
  }
  const words = pieces[at]!;
  return {
    token: { words, senses: words === 'a' || words === 'an' ? [{ is: 'number', n: 1 }] : [] },
    length: 1,
  };
}

/** Whether the name of a holiday begins behind the first of some words and goes on beyond them. */
function holidayBehind(
  pieces: readonly string[],
  at: number,
  length: number,
  holidays: HolidayTable,
): boolean {
  const starts = startsOf(holidays);
  for (let from = at + 1; from < at + length; from++)
    if (starts.has(pieces[from]!))
      for (let to = at + length + 1; to <= Math.min(from + LONGEST_NAME, pieces.length); to++)
        if (Object.hasOwn(holidays, pieces.slice(from, to).join(' '))) return true;
  return false;
}

/**
 * What a word that is cut short means where a figure stands beside it, a weekday only before one. Without one
 * it is some other word: "so gegen vier", "quero ter".
 */
function shortSensesAt(pieces: readonly string[], at: number, language: string): Sense[] {
  const short = shortSenses(pieces[at]!, language);
  if (short.length === 0) return [];
  const { before, behind } = figuresBeside(pieces, at);
  return short.filter(({ is }) => behind || (before && is === 'month'));
}

/** Whether figures stand before a word and behind it, over a stop or "de": "ven. 1 janv.", "1 de dic". */
function figuresBeside(pieces: readonly string[], at: number): { before: boolean; behind: boolean } {
  const isFigure = (piece: string | undefined) => piece !== undefined && /^\d{1,2}(?!\d)\D{0,3}$/.test(piece);
  const over = (step: 1 | -1) => {
    const next = pieces[at + step];
    return next !== undefined && (/^[.,]$/.test(next) || (step < 0 && /^d[eio]$/.test(next)))
      ? pieces[at + 2 * step]
      : next;
  };
  // "El vie.", by itself, is as good.
  const isAlone = pieces.every((piece, other) => other === at || piece === '.' || ARTICLES.has(piece));
  return { before: isFigure(over(-1)), behind: isAlone || isFigure(over(1)) };
}

function germanOrdinal(word: string): Sense[] {
  const base = GERMAN_ORDINAL.exec(word)?.[1];
  const value = base === undefined ? undefined : valueInWords(base);
  return value === undefined || value > 31 ? [] : [{ is: 'ordinal', n: value }];
}

function inFigures(piece: string): Token {
  const parts = piece.match(/\d+/g)!.map(Number);
  const by = /\d([^\d])\d/.exec(piece)?.[1];
  if (by)
    return {
      words: piece,
      senses: [],
      figures: { parts, by, open: /\D$/.test(piece), padded: piece.startsWith('0') },
    };
  const n = parts[0]!;
  const digits = piece.match(/\d+/)![0].length;
  if (/\p{L}$/u.test(piece)) return { words: piece, senses: [{ is: 'ordinal', n }], digits };
  return { words: piece, senses: [{ is: 'number', n }], digits };
}
