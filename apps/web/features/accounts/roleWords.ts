import type { Grant, Role } from '@dart-loop/contract/roles';

/** What each role may do, as it is said to whoever gives it or gets it. */
export const ROLE_WORDS: Record<Role, { name: string; article: string; may: string }> = {
  owner: { name: 'Owner', article: 'an owner', may: 'everything, and who else may come in' },
  builder: {
    name: 'Builder',
    article: 'a builder',
    may: 'loops, people, lines, sync and conversations',
  },
  operator: {
    name: 'Operator',
    article: 'an operator',
    may: 'conversations and the people in them, and what else is given to them; no loops and no lines',
  },
  client: { name: 'Client', article: 'a client', may: 'reads conversations and changes nothing' },
};

/** What each grant lets an operator see, in a list of them. */
const GRANT_SHORT: Record<Grant, string> = {
  people: 'all people',
  bookings: 'bookings',
  brief: 'the brief',
};

const LISTED = new Intl.ListFormat('en-GB', { type: 'conjunction' });
/** The role of a member, with what an operator is given beyond it. */
export function roleWords(role: Role, grants: readonly Grant[]): string {
  const { name } = ROLE_WORDS[role];
  if (role !== 'operator' || grants.length === 0) return name;
  return `${name} with ${LISTED.format(grants.map((each) => GRANT_SHORT[each]))}`;
}

/** What an operator can be given beyond that. */
export const GRANT_WORDS: Record<Grant, string> = {
  people: 'See and change all people',
  bookings: 'See and change bookings',
  brief: 'Read the brief',
};
