import type { Language } from '../people/client';
import { firstWords } from './firstWords';
import { fold } from './fold';

/** Whole numbers from 0 to 99 as they are said in each language; folded, parted by spaces. */
const numerals = new Map<string, number>();
/** The same of each language alone. */
const own = new Map<string, Map<string, number>>();
let language: Language = 'en';
const add = (words: string, value: number): void => {
  const key = fold(words);
  if (key && !numerals.has(key)) numerals.set(key, value);
  const theirs = own.get(language) ?? new Map<string, number>();
  own.set(language, theirs.set(key, value));
};
const list = (from: number, words: string): void =>
  words.split(' ').forEach((word, at) => add(word, from + at));
/** Tens with what joins ones to them: "twenty one", "treinta y dos", "einundzwanzig". */
function tens(words: string, ones: string, join: (ten: string, one: string) => string[]): void {
  words.split(' ').forEach((ten, at) => {
    add(ten, 20 + at * 10);
    ones.split(' ').forEach((one, index) => {
      for (const said of join(ten, one)) add(said, 20 + at * 10 + index + 1);
    });
  });
}

const EN = 'one two three four five six seven eight nine';
list(0, `zero ${EN} ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen`);
tens('twenty thirty forty fifty sixty seventy eighty ninety', EN, (ten, one) => [`${ten} ${one}`, ten + one]);

language = 'es';
const ES = 'uno dos tres cuatro cinco seis siete ocho nueve';
list(0, `cero ${ES} diez once doce trece catorce quince dieciseis diecisiete dieciocho diecinueve`);
ES.split(' ').forEach((one, at) => add(`veinti${one}`, 21 + at));
tens('veinte treinta cuarenta cincuenta sesenta setenta ochenta noventa', ES, (ten, one) => [
  `${ten} y ${one}`,
]);
add('una', 1);
add('un', 1);

language = 'fr';
const FR = 'un deux trois quatre cinq six sept huit neuf';
const FR_TEENS = 'dix onze douze treize quatorze quinze seize dix-sept dix-huit dix-neuf';
list(1, FR);
list(10, FR_TEENS);
tens('vingt trente quarante cinquante soixante', FR, (ten, one) => [`${ten} ${one}`, `${ten} et ${one}`]);
FR_TEENS.split(' ').forEach((teen, at) => {
  add(`soixante ${teen}`, 70 + at);
  add(`soixante et ${teen}`, 70 + at);
  add(`quatre vingt ${teen}`, 90 + at);
});
FR.split(' ').forEach((one, at) => add(`quatre vingt ${one}`, 81 + at));
add('quatre vingts', 80);
add('quatre vingt', 80);
add('une', 1);

language = 'de';
const DE = 'ein zwei drei vier fünf sechs sieben acht neun';
list(1, `eins ${DE.slice(4)} zehn elf zwölf dreizehn vierzehn fünfzehn sechzehn siebzehn achtzehn neunzehn`);
tens('zwanzig dreißig vierzig fünfzig sechzig siebzig achtzig neunzig', DE, (ten, one) => [
  `${one}und${ten}`,
]);
list(0, 'null');
list(2, 'zwo');
for (const one of ['eine', 'einen', 'einer']) add(one, 1);

language = 'pt';
const PT = 'um dois três quatro cinco seis sete oito nove';
list(1, `${PT} dez onze doze treze quatorze quinze dezesseis dezessete dezoito dezenove`);
tens('vinte trinta quarenta cinquenta sessenta setenta oitenta noventa', PT, (ten, one) => [
  `${ten} e ${one}`,
]);
for (const [word, value] of [
  ['uma', 1],
  ['duas', 2],
  ['catorze', 14],
  ['dezasseis', 16],
  ['dezassete', 17],
  ['dezanove', 19],
] as const)
  add(word, value);

language = 'it';
const IT = 'uno due tre quattro cinque sei sette otto nove';
list(1, `${IT} dieci undici dodici tredici quattordici quindici sedici diciassette diciotto diciannove`);
tens('venti trenta quaranta cinquanta sessanta settanta ottanta novanta', IT, (ten, one) => [
  ten + one,
  // The vowel goes before one that begins with a vowel: "ventuno", "trentotto".
  ten.slice(0, -1) + one,
]);

/** Numbers of one language that are other words in English: they count for whoever speaks it. */
const ONLY_IN: Record<string, Language> = { once: 'es', um: 'pt', due: 'it', sept: 'fr' };

/**
 * A whole number from 0 to 99 that is said in words, in any of our languages; undefined where the words are
 * something else, or more than the number. `language`: the person's, ISO 639-1, where it is known.
 */
export function valueInWords(words: string, language?: string): number | undefined {
  const said = fold(words);
  const only = ONLY_IN[said];
  return only !== undefined && only !== language ? undefined : numerals.get(said);
}

const starts = firstWords(numerals.keys());
/** Whether a number of several words, in any of our languages, begins with a word: "vingt deux". */
export const beginsNumeral = (word: string): boolean => starts.has(word);

/** Words that are "a" before they are "one". */
const ARTICLES = new Set(['un', 'una', 'uno', 'une', 'ein', 'eine', 'einen', 'einer', 'um', 'uma']);
/** Most words of one numeral: "quatre vingt dix", "treinta y dos". */
const LONGEST = 3;

/**
 * The numbers that folded words of one language hold, in order: "con dos perros". A word for one that is
 * an article as well is left out, and so is all where the language is none of ours.
 */
export function numbersIn(words: readonly string[], spoken: string): number[] {
  const known = own.get(spoken);
  const found: number[] = [];
  for (let at = 0; known && at < words.length;) {
    let length = Math.min(LONGEST, words.length - at);
    let value: number | undefined;
    for (; length > 0 && value === undefined; length--)
      value = known.get(words.slice(at, at + length).join(' '));
    if (value === undefined || (length === 0 && ARTICLES.has(words[at]!))) at++;
    else {
      found.push(value);
      at += length + 1;
    }
  }
  return found;
}
