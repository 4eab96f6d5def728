/**
 * Text and JSON as the database can keep them. PostgreSQL has no place for the character NUL, and half of a
 * surrogate pair is no text in UTF-8: NUL is removed, a lone half becomes U+FFFD. Everything else stands as
 * it was written.
 */
export const cleanText = (text: string): string =>
  (text.includes('\0') ? text.replaceAll('\0', '') : text).toWellFormed();

/**
 * What {@link JSON.stringify} writes for NUL and for halves of pairs, and also for the same six characters
 * when somebody types them.
 */
const SUSPICIOUS = /\\u(?:0000|d[89a-f])/;

/**
 * Any value as JSON for the database, its texts and names cleaned. `undefined` becomes `null`. The only way
 * from a value to JSON in the server.
 */
export function toJson(value: unknown, indent?: number): string {
  const quick = JSON.stringify(value, undefined, indent) ?? 'null';
  return SUSPICIOUS.test(quick) ? (JSON.stringify(value, cleaned, indent) ?? 'null') : quick;
}

function cleaned(_key: string, value: unknown): unknown {
  if (typeof value === 'string') return cleanText(value);
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return value;
  const names = Object.keys(value);
  if (names.every((name) => cleanText(name) === name)) return value;
  return Object.fromEntries(Object.entries(value).map(([name, of]) => [cleanText(name), of]));
}

/** Deeper than any honest body; PostgreSQL's own limit depends on its stack. */
const MOST_DEEP = 100;

/**
 * Whether lists and objects stand within each other deeper than is taken. Works without recursion, whatever
 * is sent.
 */
export function isTooDeep(value: unknown): boolean {
  let level = [value];
  for (let depth = 0; depth <= MOST_DEEP; depth++) {
    level = level.flatMap((each) => (each !== null && typeof each === 'object' ? Object.values(each) : []));
    if (level.length === 0) return false;
  }
  return true;
}

/** What cannot be kept as JSON, as text: its beginning. */
export function asText(value: unknown): string {
  try {
    return toJson(value).slice(0, 4_000);
  } catch {
    return 'It cannot be written down.';
  }
}
