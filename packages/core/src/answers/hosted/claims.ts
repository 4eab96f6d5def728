import { fold } from '../../language/fold';
import { conceptsOf, meets, stemOf, termsOf, wordsOf } from '../terms';

/** How much of what a sentence says has to stand in what it is taken from. */
const MOSTLY = 0.75;

/**
 * Words that change what is true, or promise something: none may come in, and of those that deny none may
 * get lost.
 */
const listed = (words: string): string[] => words.split(/\s+/).filter(Boolean);
const DENIES = listed('no not never none nothing cannot without except unless neither nor nobody only');
const TELLING = [
  ...DENIES,
  ...listed(`
    free always guarantee promise definitely certainly sure refund discount included include every all any
    everybody anyone anytime instant immediately today tomorrow tonight yesterday now
    one two three four five six seven eight nine ten eleven twelve twenty thirty forty fifty sixty seventy
    eighty ninety hundred thousand half quarter double twice once
    monday tuesday wednesday thursday friday saturday sunday weekday weekend holiday
    january february march april june july august september october november december
    morning afternoon evening night hour day week month year minute`),
];
const tellingStems = new Set(TELLING.map(stemOf));
const denyingStems = new Set(DENIES.map(stemOf));

/** Numbers with what stands at them: "£12.50", "10:00", "20%". */
const NUMBERS = /[£€$]?\s?\d+(?:[.,:]\d+)*\s?(?:[£€$%]|am\b|pm\b)?/gi;
const numbersIn = (text: string): string[] =>
  (text.match(NUMBERS) ?? []).map((number) => number.replace(/\s/g, '').toLowerCase());
const NAMES = /(?<=[\p{L}\p{N},;:“"’)] )\p{Lu}[\p{L}\p{N}’'-]*/gu;
const PLACES = /https?:\S+|www\.\S+|\S+@\S+|\b[\p{L}\p{N}-]+\.(?:com|org|net|io|co|uk|example)\b/giu;

/** Folded, with "don't" written out, as it denies as "not" does. */
const plain = (text: string): string =>
  fold(text.replace(/n[’']t\b/gi, ' not')).replace(/\bcan not\b/g, 'cannot');
const stemsOf = (text: string): Set<string> => new Set(plain(text).split(' ').filter(Boolean).map(stemOf));
const denies = (stems: ReadonlySet<string>): boolean => [...denyingStems].some((stem) => stems.has(stem));

/**
 * Why a sentence of somebody's own wording must not be said of what it is taken from; null where nothing
 * tells against it. What it checks: numbers, days, names, addresses, promises, what is denied, and how much
 * of it stands there at all. It cannot make sure of anything: that is why sources are quoted unless their
 * owner wishes otherwise. `source`: the sentences it stands on; `heading`: what they stand below.
 */
export function whyNotSaid(text: string, quote: string, source: string, heading: string): string | null {
  const there = fold(source);
  if (fold(quote) === '' || !` ${there} `.includes(` ${fold(quote)} `))
    return `“${quote}” does not stand in what it is said to be taken from`;
  if (/^\s*(?:yes|no|yep|yeah|nope|sure|of course)\b/i.test(text)) return 'it begins with yes or no';
  const around = `${heading} ${source}`;
  // Among several numbers the quote says which is meant.
  const known = new Set(numbersIn(`${heading} ${quote}`));
  const number = numbersIn(text).find((each) => !known.has(each));
  if (number !== undefined) return `“${number}” does not stand in its quote`;
  const place = (text.match(PLACES) ?? []).find((each) => !around.includes(each));
  if (place !== undefined) return `“${place}” does not stand there`;
  const [said, stands] = [stemsOf(text), stemsOf(around)];
  const telling = [...said].find((stem) => tellingStems.has(stem) && !stands.has(stem));
  if (telling !== undefined) return `“${telling}” does not stand there`;
  if (denies(stemsOf(source)) !== denies(said)) return 'it denies what is not denied there, or the reverse';
  const name = (text.match(NAMES) ?? []).find((each) => !stands.has(stemOf(fold(each))));
  if (name !== undefined) return `“${name}” does not stand there`;
  const terms = termsOf(wordsOf(around));
  const stems = [...termsOf(wordsOf(text)).distinct];
  const met = stems.reduce((sum, stem) => sum + meets(stem, terms), 0);
  if (stems.length === 0 || met / stems.length < MOSTLY) return 'too little of it stands there';
  const strange = stems.find((stem) => conceptsOf(stem).length > 0 && meets(stem, terms) === 0);
  return strange === undefined ? null : `“${strange}” does not stand there`;
}
