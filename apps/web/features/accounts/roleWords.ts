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

/** What an operator can be given beyond that. */
export const GRANT_WORDS: Record<Grant, string> = {
  people: 'See and change all people',
  bookings: 'See and change bookings',
  brief: 'Read the brief',
};
