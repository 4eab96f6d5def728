import { comparable, fold, valueWords, type PersonFacts, type Value } from '@dart-loop/core';

/**
 * What the index keeps of one person: terms to find them by, folded texts by field, and what a search looks
 * through.
 */
export interface PersonTerms {
  terms: string[];
  texts: Record<string, string>;
  search: string;
  /** Numbers and addresses by which they may turn out to be somebody who is known already. */
  contacts: string[];
}

/** What terms are made of, beside the person's facts. */
export interface Termed extends Pick<
  PersonFacts,
  'firstName' | 'lastName' | 'language' | 'fields' | 'tags' | 'lists' | 'ties' | 'history' | 'source'
> {
  /** Addresses and handles of their identities. */
  addresses: readonly string[];
}

/**
 * How values stand among a field's terms, one letter for each way of comparing: t text, s one of several, 1
 * the only one of several, n number, d day, h time of day, b yes or no.
 */
export type Way = 't' | 's' | '1' | 'n' | 'd' | 'h' | 'b';

export const TERM = {
  everybody: '',
  tag: (tag: string) => `g:${tag}`,
  list: (list: string) => `l:${list}`,
  reach: (which: string) => `r:${which}`,
  optedIn: (which: string) => `i:${which}`,
  optedOut: (which: string) => `o:${which}`,
  entered: (loopId: string) => `e:${loopId}`,
  finished: (loopId: string) => `f:${loopId}`,
  source: (source: string) => `c:${fold(source)}`,
  /** That the field has a value which is compared in this way. */
  known: (field: string, way: Way) => `k:${field}|${way}`,
  value: (field: string, way: Way, value: string) => `v:${field}|${way}|${value}`,
  /** The language that a field of theirs names, or that the channel says. */
  ownLanguage: (language: string) => `a:${language}`,
  hasOwnLanguage: 'a',
  saidLanguage: (language: string) => `b:${language}`,
} as const;

/** How a value of this type is compared. */
export function wayOf(type: Value['type']): Exclude<Way, '1'> {
  switch (type) {
    case 'number':
      return 'n';
    case 'date':
      return 'd';
    case 'time':
      return 'h';
    case 'yes/no':
      return 'b';
    case 'several of':
      return 's';
    default:
      return 't';
  }
}

/** A number as 16 letters whose order is that of the numbers. */
export function inOrder(number: number): string {
  const view = new DataView(new ArrayBuffer(8));
  view.setFloat64(0, number === 0 ? 0 : number);
  const bits = view.getBigUint64(0);
  const sign = 1n << 63n;
  return (bits & sign ? ~bits & 0xffff_ffff_ffff_ffffn : bits | sign).toString(16).padStart(16, '0');
}

/** The terms of somebody. Those that a text field of any length gives are cut where comparing ends. */
export function termsOf(person: Termed): PersonTerms {
  const terms = new Set<string>([TERM.everybody]);
  const texts: Record<string, string> = {};
  for (const tag of person.tags) terms.add(TERM.tag(tag));
  for (const list of person.lists) terms.add(TERM.list(list));
  for (const tie of person.ties)
    for (const which of [tie.key, tie.channel, 'any']) {
      terms.add(TERM.reach(which));
      if (tie.optedIn) terms.add(TERM.optedIn(which));
      if (tie.optedOut) terms.add(TERM.optedOut(which));
    }
  for (const [loopId, passage] of Object.entries(person.history)) {
    terms.add(TERM.entered(loopId));
    if (passage.finished !== null) terms.add(TERM.finished(loopId));
  }
  if (person.source !== null) terms.add(TERM.source(person.source));
  for (const [field, value] of Object.entries(person.fields)) {
    terms.add(TERM.known(field, wayOf(value.type)));
    for (const [way, written] of writtenWays(value)) terms.add(TERM.value(field, way, written));
    // A phone number is compared by its digits, other texts folded; the mark before it says which.
    if (['t', 's'].includes(wayOf(value.type)))
      texts[field] = markOf(value) + comparable(value.type, valueWords(value));
  }
  const own = person.fields.language;
  if (own && typeof own.value === 'string' && /^[a-z]{2}$/i.test(own.value)) {
    terms.add(TERM.hasOwnLanguage);
    terms.add(TERM.ownLanguage(own.value.toLowerCase()));
  }
  const said = person.language?.slice(0, 2).toLowerCase();
  if (said) terms.add(TERM.saidLanguage(said));
  const searched = [
    [person.firstName, person.lastName].filter(Boolean).join(' '),
    ...person.addresses,
    ...Object.values(person.fields).flatMap((value) =>
      ['email', 'phone'].includes(value.type) ? [String(value.value)] : [],
    ),
  ];
  const contacts = [
    ...Object.values(person.fields).map((value) => contactOf(value)),
    ...person.addresses.map((address) => (address.startsWith('+') ? `p:${address}` : null)),
  ];
  return {
    contacts: [...new Set(contacts)].filter((contact) => contact !== null),
    terms: [...terms],
    texts,
    search: searched.filter(Boolean).map(searchable).join('\n').slice(0, 2_000),
  };
}

/** A value that tells one person from all others: an address of theirs; null for all others. */
export const contactOf = (value: Value): string | null =>
  value.type === 'email'
    ? `e:${value.value.toLowerCase()}`
    : value.type === 'phone'
      ? `p:${value.value}`
      : null;

/** A text as a search compares it: folded, but with the marks that numbers and addresses live by. */
export const searchable = (text: string): string =>
  text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase().replace(/\s+/g, ' ').trim();

const markOf = (value: Value) => (value.type === 'phone' ? '#' : '=');

function writtenWays(value: Value): [Way, string][] {
  switch (value.type) {
    case 'number':
      return [['n', inOrder(value.value)]];
    case 'date':
      return [['d', value.value]];
    case 'time':
      return [['h', value.value]];
    case 'yes/no':
      return [['b', value.value ? 'y' : 'n']];
    case 'several of': {
      const parts = value.value.map((part) => comparable('text', part));
      return [
        ...parts.map((part): [Way, string] => ['s', part]),
        ...(parts.length === 1 ? [['1', parts[0]!] as [Way, string]] : []),
      ];
    }
    default:
      return [['t', markOf(value) + comparable(value.type, valueWords(value))]];
  }
}
