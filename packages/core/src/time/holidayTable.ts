/**
 * The days with a name of their own in a client's country: by their names in small letters without accents or
 * signs, words parted by single spaces, the days (YYYY-MM-DD) on which they fall, in order.
 */
export type HolidayTable = Readonly<Record<string, readonly string[]>>;

/** Most words of a name that are looked for. */
export const LONGEST_NAME = 6;

/** How a name is looked up: "mother s day" and "mothers day" for "Mother’s Day". */
export function holidayKeys(name: string): string[] {
  const bare = name
    .replace(/\([^)]*\)/g, ' ')
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll('ß', 'ss');
  const words = (text: string) => (text.match(/\p{L}+/gu) ?? []).slice(0, LONGEST_NAME).join(' ');
  // "2. Advent" is told from the first by its figure alone.
  if (/^\s*\d/.test(bare)) return [];
  return [...new Set([words(bare), words(bare.replace(/['’]/g, ''))])].filter((key) => /\p{L}{3}/u.test(key));
}
