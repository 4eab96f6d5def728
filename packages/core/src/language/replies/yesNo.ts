import { DONT_KNOW, NEGATORS, NO, STRENGTHENS, UNCLEAR, YES, YES_THOUGH } from '../answers';
import { fold, slips } from '../fold';
import { asRead, unread, type ReplyReader } from './reading';

/** Words around an answer that change nothing. */
const FILLER = new Set(
  'please thanks thank you ta oh well um hi hello that thats is would be great good lovely and i a to it very much all quite so then for me my mate cheers ill pass really by thing works with this one tbh think gracias por favor merci sil vous plait danke bitte obrigado obrigada grazie per favore senor et und e y'.split(
    ' ',
  ),
);
const VOCABULARY = new Set(
  [...UNCLEAR, ...DONT_KNOW, ...YES_THOUGH, ...STRENGTHENS, ...NEGATORS, ...FILLER, ...YES, ...NO].flatMap(
    (phrase) => phrase.split(' '),
  ),
);
/** Words long enough that a slip of typing leaves no doubt. */
const LONG = [...VOCABULARY].filter((word) => word.length >= 7);

/**
 * A word as it is known: letters that are drawn out are taken back ("yesss"), and a slip in a long word is
 * put right where it can only be that word ("absolutley").
 */
function known(word: string): string {
  if (VOCABULARY.has(word)) return word;
  for (const short of [word.replace(/(.)\1{2,}/gu, '$1$1'), word.replace(/(.)\1+/gu, '$1')])
    if (VOCABULARY.has(short)) return short;
  if (word.length < 7) return word;
  const allowed = word.length >= 9 ? 2 : 1;
  const near = LONG.filter((each) => slips(word, each, allowed) <= allowed);
  return near.length === 1 ? near[0]! : word;
}

/** Whoever writes more says more than yes or no. */
const LONGEST = 400;
/** With more words than these that say neither, it says more than yes or no. */
const MOST_BESIDE = 2;

/**
 * The words of a reply as they are known. Once more are unknown than a yes or no may have beside it, nothing
 * that follows can make it one, and looking for slips in all of a long text would take its time.
 */
function knownWords(said: string): string {
  let unknown = 0;
  return said
    .split(' ')
    .map((word) => {
      if (unknown > MOST_BESIDE) return word;
      const is = known(word);
      if (!VOCABULARY.has(is)) unknown++;
      return is;
    })
    .join(' ');
}

export const yesNo: ReplyReader = {
  type: 'yes/no',
  words: 'yes or no',
  example: 'yes',
  /**
   * "sure why not" is yes, "of course not" is no; when a yes and a no both stand there, or words that may
   * turn it, it is not guessed, and neither where somebody does not know.
   */
  read(written) {
    if (written.length > LONGEST) return unread('it says more than yes or no');
    const folded = fold(written);
    if (!folded) {
      const yes = /👍|✅|👌|🙏|💯/u.test(written);
      const no = /👎|❌|🚫/u.test(written);
      if (yes !== no) return answer(yes, 0.9);
      return unread('there is no answer in it');
    }
    let rest = ` ${knownWords(folded)} `;
    const take = (phrases: readonly string[]): boolean => {
      let taken = false;
      for (const phrase of phrases)
        while (rest.includes(` ${phrase} `)) {
          rest = rest.replace(` ${phrase} `, '  ');
          taken = true;
        }
      return taken;
    };
    if (take(DONT_KNOW)) return unread('it says that they do not know');
    if (take(UNCLEAR)) return unread('it is neither yes nor no');
    const yesThough = take(YES_THOUGH);
    const before = rest;
    // A yes that is turned by a negation beside it is one no.
    for (const negated of NEGATED) rest = rest.replace(negated, '  ');
    const isNegated = rest !== before;
    const no = take(NO) || isNegated;
    const yes = take(YES) || yesThough;
    const left = rest.split(' ').filter((word) => word && !FILLER.has(word));
    const isTurned = left.some((word) => NEGATORS.has(word));
    if (yes && (no || isTurned)) return unread('it says both yes and no');
    if (no && isTurned) return unread('it is neither yes nor no');
    if (!no && !yes) return unread('it is neither yes nor no');
    if (left.length > MOST_BESIDE) return unread('it says more than yes or no');
    return answer(yes, left.length === 0 ? 1 : 0.7);
  },
};

const either = (phrases: readonly string[]) => phrases.join('|');
const NEGATED = [
  // "of course not", "claro que no", "sicher nicht"
  new RegExp(` (?:${either(STRENGTHENS)}) (?:not|no|non|nao|nicht|pas)(?= )`),
  // "not correct", "not a good idea" is more than that and is left.
  new RegExp(` (?:not|nicht|pas|non|no) (?:${either(YES.filter((word) => word.length > 3))})(?= )`),
];

const answer = (value: boolean, confidence: number) =>
  asRead(
    { type: 'yes/no', value },
    confidence,
    value ? 'yes' : 'no',
    confidence < 1 ? 'it says a little more' : undefined,
  );
