import { type TermQuery, tsquery, allOf, anyOf } from './termQuery';
import { TERM } from './terms';

/**
 * How a range (a number above 2, a day in the next week) is asked: of the index, which has to read all that
 * lies in it, or of the rows of the people, which is the faster where something else leaves few of them, or
 * where most lie in it.
 */
export type RangesBy = 'index' | 'rows';

export const hasRange = (query: Query): boolean =>
  query.kind === 'range' || ('parts' in query && query.parts.some(hasRange));
/** What is asked of the index of terms, of a row itself, or several of these. Always true or false. */
export type Query =
  | { kind: 'always'; is: boolean }
  /** `bare`: what is left of it beside something that nobody but the client's people fits. */
  | { kind: 'terms'; query: TermQuery; bare?: TermQuery }
  | { kind: 'row'; of: 'person' | 'terms'; write: (bind: (value: unknown) => string) => string }
  | { kind: 'range'; terms: TermQuery; ofRow: TermQuery }
  | { kind: 'all' | 'any'; parts: Query[] };
/** What is left once it is known how ranges are asked. */
export type Asking =
  Exclude<Query, { kind: 'range' | 'all' | 'any' }> | { kind: 'all' | 'any'; parts: Asking[] };
export interface Both {
  yes: Query;
  no: Query;
}
export const EVERYBODY: TermQuery = { term: TERM.everybody };
export const NEVER = { kind: 'always', is: false } as const;
const ALWAYS = { kind: 'always', is: true } as const;
export const UNKNOWN: Both = { yes: NEVER, no: NEVER };
export const all = (...parts: Query[]): Query => ({ kind: 'all', parts });
export const any = (...parts: Query[]): Query => ({ kind: 'any', parts });
/**
 * Joins what is asked of the terms into as few questions as there can be, and leaves out what is always true
 * or never.
 */
export function together(query: Query, ranges: RangesBy, clientId: number): Asking {
  if (query.kind === 'range')
    return ranges === 'index'
      ? { kind: 'terms', query: query.terms }
      : // Not as PostgreSQL's own operator alone, which it would ask of the index.
        {
          kind: 'row',
          of: 'terms',
          write: (bind) => `((t.terms @@ ${bind(tsquery(query.ofRow, clientId))}::tsquery) is true)`,
        };
  if (!('parts' in query)) return query;
  const { kind } = query;
  const parts = query.parts
    .map((part) => together(part, ranges, clientId))
    .flatMap((part) => (part.kind === kind ? part.parts : [part]));
  const decides = kind === 'any';
  if (parts.some((part) => part.kind === 'always' && part.is === decides)) return decides ? ALWAYS : NEVER;
  const left = parts.filter((part) => part.kind !== 'always');
  const asked = left.flatMap((part) => (part.kind === 'terms' ? [part] : []));
  // Everybody is a long list to read: it is asked for only where nothing else says whose people are meant.
  const first = Math.max(
    0,
    asked.findIndex((part) => part.bare === undefined),
  );
  const terms = asked.map((part, index) =>
    kind === 'all' && index !== first ? (part.bare ?? part.query) : part.query,
  );
  const others = left.filter((part) => part.kind !== 'terms');
  const joined: Asking[] =
    terms.length === 0
      ? others
      : [{ kind: 'terms', query: kind === 'all' ? allOf(...terms) : anyOf(...terms) }, ...others];
  return joined.length === 0
    ? { kind: 'always', is: !decides }
    : joined.length === 1
      ? joined[0]!
      : { kind, parts: joined };
}
