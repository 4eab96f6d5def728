const ASCII = /^[\x00-\x7f]*$/;

/** Letters that are read as others are, and that Unicode does not take apart. */
const READ_AS: Readonly<Record<string, string>> = {
  ß: 'ss',
  ı: 'i',
  æ: 'ae',
  œ: 'oe',
  ø: 'o',
  ł: 'l',
  đ: 'd',
  ـ: '',
};
/** Accents, vowel marks that most people leave out, how an emoji looks, apostrophes. */
const LEFT_OUT =
  /[\u0300-\u036f\u20d0-\u20ff\ufe00-\ufe0f\u0591-\u05bd\u05bf\u05c1\u05c2\u05c4\u05c5\u05c7\u0610-\u061a\u064b-\u065f\u0670\u06d6-\u06dc\u06df-\u06e8\u06ea-\u06ed\u2019']/g;

/**
 * Text as it is compared: case, accents, vowel marks, punctuation, emoji and white space folded away; ß is
 * ss, and the Turkish i with and without its dot one letter. Letters, digits and their marks of every script
 * are kept. Returns words parted by single spaces, or ''.
 */
export function fold(text: string): string {
  // Most of what people write: the same rule, without the cost of Unicode.
  if (ASCII.test(text))
    return text
      .toLowerCase()
      .replace(/'/g, '')
      .replace(/[^a-z0-9]+/g, ' ')
      .trim();
  return text
    .normalize('NFKD')
    .replace(LEFT_OUT, '')
    .toLowerCase()
    .replace(/[ßıæœøłđـ]/g, (letter) => READ_AS[letter]!)
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
    .trim()
    .normalize('NFC');
}

const EMOJI =
  /(\p{Regional_Indicator}{2}|\p{Extended_Pictographic}(?:\u200d\p{Extended_Pictographic})*|[#*0-9]\u20e3)/u;
/** Marks that only say how an emoji is to look: its style and the colour of its skin. */
const LOOKS = /[\ufe0e\ufe0f]|\p{Emoji_Modifier}/gu;

/** Whether there may be an emoji in it; quick. */
export const mayHoldEmoji = (text: string): boolean =>
  !ASCII.test(text) && EMOJI.test(text.replace(LOOKS, ''));

/**
 * Folded words with the emoji between them, each a word of its own, without their skin tones; of equal ones
 * in a row the first.
 */
export function foldWithEmoji(text: string): string {
  const words: string[] = [];
  for (const [at, piece] of text.replace(LOOKS, '').split(EMOJI).entries()) {
    const word = at % 2 === 1 ? piece : fold(piece);
    if (word && word !== words.at(-1)) words.push(word);
  }
  return words.join(' ');
}

/** A keyword as it is looked for: by its words, or by its emoji where it has none. */
export const foldKeyword = (word: string): string => fold(word) || foldWithEmoji(word);

/**
 * How many typing slips (a letter added, left out, changed, or two neighbours swapped) lead from `a` to `b`,
 * counted up to `most`; `most + 1` means more. Optimal string alignment.
 */
export function slips(a: string, b: string, most: number): number {
  const from = [...a];
  const to = [...b];
  if (Math.abs(from.length - to.length) > most) return most + 1;
  let beforeLast: number[] = [];
  let last = Array.from({ length: to.length + 1 }, (_, i) => i);
  for (let i = 1; i <= from.length; i++) {
    const row = [i];
    for (let j = 1; j <= to.length; j++) {
      const same = from[i - 1] === to[j - 1] ? 0 : 1;
      let cost = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + same);
      if (i > 1 && j > 1 && from[i - 1] === to[j - 2] && from[i - 2] === to[j - 1])
        cost = Math.min(cost, beforeLast[j - 2]! + 1);
      row.push(cost);
    }
    beforeLast = last;
    last = row;
  }
  return Math.min(last[to.length]!, most + 1);
}
