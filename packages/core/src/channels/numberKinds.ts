/**
 * Kinds of numbers that an SMS line may have, with how many messages a second carriers take from one. Source:
 * the carriers' published rates, as most gateways pass them on; what a gateway takes less of, it says (429).
 */
export const NUMBER_KINDS = {
  'long code': { perSecond: 1, words: 'Long code, an ordinary number' },
  'toll-free': { perSecond: 3, words: 'Toll-free' },
  'short code': { perSecond: 100, words: 'Short code, 5 or 6 digits' },
} as const;
export type NumberKind = keyof typeof NUMBER_KINDS;

/** The kind that is kept of a line; one of which nothing is kept is the slowest. */
export const numberKindOf = (kept: string | undefined): NumberKind =>
  kept !== undefined && kept in NUMBER_KINDS ? (kept as NumberKind) : 'long code';
