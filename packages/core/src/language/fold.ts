const ASCII = /^[\x00-\x7f]*$/;

/**
 * Text as it is compared: case, accents, punctuation, emoji and white space folded away.
 * Letters, digits and their marks of every script are kept. Returns words parted by single spaces, or ''.
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
    .replace(/[\u0300-\u036f\u2019']/g, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
    .trim()
    .normalize('NFC');
}

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
