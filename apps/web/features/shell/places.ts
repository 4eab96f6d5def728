import type { ClientSummary, Session } from '@dart-loop/contract';
import { may, type Permission } from '@dart-loop/contract/roles';
import { counted } from '@dart-loop/core/language/counted';
import type { IconName } from '../../ui/Icon';

/** A place of the application: a screen that is always one press away. */
export interface Place {
  key: string;
  words: string;
  /** What is there, in one line. */
  more: string;
  icon: IconName;
  href: string;
  /** How many things wait there. */
  count: number;
  /** Whether something there does not work. */
  failing: boolean;
  current: boolean;
  /** The places that belong to it. */
  parts: Place[];
}

interface Part {
  path: string;
  words: string;
  more: string;
  icon: IconName;
  needs: Permission;
  parts?: Part[];
}

/** What belongs to a client, in the order in which it stands. */
const CLIENT_PARTS: Part[] = [
  {
    path: 'loops',
    words: 'Loops',
    more: 'Automated conversations and what starts them',
    icon: 'loops',
    needs: 'see loops',
    parts: [
      {
        path: 'files',
        words: 'Files',
        more: 'Pictures, recordings and documents that loops send',
        icon: 'files',
        needs: 'see loops',
      },
    ],
  },
  {
    path: 'people',
    words: 'People',
    more: 'Everybody who has written, or was imported',
    icon: 'people',
    needs: 'see people',
    parts: [
      {
        path: 'import',
        words: 'Import',
        more: 'Add people from a CSV, vCard or JSON Lines file',
        icon: 'import',
        needs: 'manage people',
      },
      {
        path: 'fields',
        words: 'Fields',
        more: 'What can be known of a person, with types',
        icon: 'fields',
        needs: 'manage people',
      },
      {
        path: 'lists',
        words: 'Lists',
        more: 'What people subscribe to, and the consent each list needs',
        icon: 'lists',
        needs: 'manage people',
      },
      {
        path: 'erasures',
        words: 'Deletion receipts',
        more: 'Proof of who was deleted when, by whom and why',
        icon: 'receipts',
        needs: 'manage people',
      },
    ],
  },
  {
    path: 'answers',
    words: 'Answers',
    more: 'What questions are answered from, and how well that goes',
    icon: 'answers',
    needs: 'see sources',
  },
  {
    path: 'bookings',
    words: 'Bookings',
    more: 'Appointments, and the calendars that loops book in',
    icon: 'bookings',
    needs: 'see bookings',
  },
  {
    path: 'lines',
    words: 'Lines',
    more: 'The pages, bots and numbers that people write to',
    icon: 'lines',
    needs: 'see lines',
    parts: [
      {
        path: 'sending',
        words: 'Sending rules',
        more: 'Quiet hours, frequency, matching and data retention',
        icon: 'sending',
        needs: 'manage people',
      },
      {
        path: 'test-phone',
        words: 'Test phone',
        more: 'Write to a line as a customer would',
        icon: 'test phone',
        needs: 'use the test phone',
      },
    ],
  },
  {
    path: 'sync',
    words: 'Sync',
    more: 'The client’s own systems, and what was delivered to them',
    icon: 'sync',
    needs: 'see sync',
    parts: [
      {
        path: 'webhooks',
        words: 'Webhooks',
        more: 'Addresses that other systems call',
        icon: 'webhooks',
        needs: 'see lines',
      },
      {
        path: 'api',
        words: 'API',
        more: 'Keys for the client’s own systems, and what they can call',
        icon: 'api',
        needs: 'see sync',
      },
    ],
  },
  {
    path: 'brief',
    words: 'Brief',
    more: 'The client’s facts, opening hours, languages and zone',
    icon: 'brief',
    needs: 'see brief',
  },
];

/** What belongs to the agency, in the order in which it stands. */
const AGENCY_PARTS: Part[] = [
  {
    path: 'clients',
    words: 'Clients',
    more: 'Everybody the agency works for, and adding one',
    icon: 'clients',
    needs: 'manage clients',
  },
  {
    path: 'team',
    words: 'Team',
    more: 'Who may come in, and what each may do',
    icon: 'team',
    needs: 'manage team',
  },
  {
    path: 'model',
    words: 'Hosted model',
    more: 'A language model that may help where sources are not sure',
    icon: 'model',
    needs: 'manage clients',
  },
  {
    path: 'audit',
    words: 'Audit',
    more: 'Every change: who made it, when, and what was before',
    icon: 'audit',
    needs: 'see audit',
  },
];

const partPaths = (parts: Part[]): string[] =>
  parts.flatMap((part) => [part.path, ...partPaths(part.parts ?? [])]);

/** Which part of a client an address is in; null for one that is in none. */
function partOf(path: string): string | null {
  const found = /^\/(?!inbox\/)[^/]+\/([^/?]+)/.exec(path)?.[1];
  return found !== undefined && partPaths(CLIENT_PARTS).includes(found) ? found : null;
}

/** What most places are: nothing waits there, nothing fails, and they have no parts. */
export const PLAIN = { count: 0, failing: false, parts: [] };

/** Whoever is signed in. */
export const accountPlace = ({ account }: Session, path: string): Place => ({
  ...PLAIN,
  key: 'account',
  words: account.name,
  more: 'Appearance, your password, and signing out',
  icon: 'account',
  href: '/account',
  current: path === '/account',
});

/** The agency’s own places, as far as one’s rights reach them. */
export const agencyPlaces = ({ account }: Session, path: string): Place[] =>
  AGENCY_PARTS.filter(({ needs }) => may(account, needs)).map(({ path: part, words, more, icon }) => ({
    ...PLAIN,
    key: part,
    words,
    more,
    icon,
    href: `/${part}`,
    current: path === `/${part}`,
  }));

/** Today and the Inbox: across all clients. */
export function workPlaces(session: Session, path: string): Place[] {
  const waiting = session.clients.reduce((sum, each) => sum + each.waiting, 0);
  return [
    {
      ...PLAIN,
      key: 'today',
      words: 'Today',
      more: 'What needs attention, across all clients',
      icon: 'today',
      href: '/',
      current: path === '/',
    },
    {
      ...PLAIN,
      key: 'inbox',
      words: 'Inbox',
      more: 'Conversations, those that wait first',
      icon: 'inbox',
      href: '/inbox',
      count: waiting,
      current: path.startsWith('/inbox'),
    },
  ];
}

/** A client's places, as far as one’s rights reach them. */
export function clientPlaces(session: Session, client: ClientSummary | undefined, path: string): Place[] {
  if (!client) return [];
  const here = partOf(path);
  const reachable = (parts: Part[]): Place[] =>
    parts.flatMap((part) => {
      const below = reachable(part.parts ?? []);
      const isOpen = may(session.account, part.needs) && (part.path !== 'test-phone' || session.testPhone);
      // What belongs to something that is out of reach stands by itself.
      if (!isOpen) return below;
      return [
        {
          key: part.path,
          words: part.words,
          more: part.more,
          icon: part.icon,
          href: `/${client.slug}/${part.path}`,
          count: 0,
          failing: part.path === 'lines' && client.failingLines > 0,
          current: here === part.path,
          parts: below,
        },
      ];
    });
  return reachable(CLIENT_PARTS);
}

/** The place, or one of its parts, is where one is. */
export const isWithin = (place: Place): boolean => place.current || place.parts.some(isWithin);

/** Where one lands with another client: at the same part of it. */
export function samePlace(session: Session, path: string, slug: string): string {
  const part = partOf(path);
  if (part) return `/${slug}/${part}`;
  return path.startsWith('/inbox') || !may(session.account, 'see loops')
    ? `/inbox?client=${slug}`
    : `/${slug}/loops`;
}

/** How a client is, in words. */
export function clientWords(client: ClientSummary): string {
  const parts = [
    ...(client.failingLines > 0
      ? [counted(client.failingLines, 'line is failing', 'lines are failing')]
      : []),
    ...(client.waiting > 0 ? [`${client.waiting} waiting`] : []),
  ];
  return parts.join(', ') || 'nothing waits';
}
