/**
 * What is asked of the terms of people: that they have one, one that begins so, or several of these together.
 * Terms are those of {@link TERM}, without their client.
 */
export type TermQuery =
  { term: string; begins?: true } | { all: TermQuery[] } | { any: TermQuery[] } | { not: TermQuery };

export const allOf = (...parts: TermQuery[]): TermQuery => (parts.length === 1 ? parts[0]! : { all: parts });
export const anyOf = (...parts: TermQuery[]): TermQuery => (parts.length === 1 ? parts[0]! : { any: parts });

/**
 * As PostgreSQL's text search reads it. The terms of a client begin with it, so that the index is parted by
 * it.
 */
export function tsquery(query: TermQuery, clientId: number): string {
  if ('not' in query) return `!(${tsquery(query.not, clientId)})`;
  if ('all' in query) return `(${query.all.map((part) => tsquery(part, clientId)).join(' & ')})`;
  if ('any' in query) return `(${query.any.map((part) => tsquery(part, clientId)).join(' | ')})`;
  const written = `${clientId}:${query.term}`.replace(/[\\']/g, (mark) => mark + mark);
  return `'${written}'${query.begins ? ':*' : ''}`;
}
