import { createHmac } from 'crypto';
import type { Account, Json } from './account';
import type { GraphKind } from './limits';
import { RateLimit } from '../mood';
import { STANDIN_SECRET } from '../secret';
import { APP, DAY } from './platform';

export const LETTER = { messenger: 'M', instagram: 'I', whatsapp: 'W' } as const;
/** What the platform would show on its pages: the token of an account, and the app with its secret. */

export function graphAccess(
  kind: GraphKind,
  id: string,
): { token: string; appId: string; appSecret: string } {
  const sign = (what: string, length: number) =>
    createHmac('sha256', `${STANDIN_SECRET}-graph`).update(what).digest('hex').slice(0, length);
  return {
    token: `EAA${LETTER[kind]}${id}x${sign(`${kind}:${id}`, 24)}`,
    appId: APP,
    appSecret: sign('app', 32),
  };
}
/** What such an account was asked to send; for tests. */

export interface GraphSending {
  channel: GraphKind;
  account: string;
  to: string;
  body: Json;
  at: number;
}

export const newAccount = (kind: GraphKind, id: string, name: string, now: number): Account => ({
  kind,
  id,
  name: name || `Account ${id}`,
  mood: 'well',
  asked: 0,
  webhook: null,
  threads: new Map(),
  posts: [1, 2].map((number) => ({
    id: `${id}_${number}`,
    text: `Post number ${number}`,
    at: now - number * DAY,
  })),
  comments: [],
  ads: [
    {
      id: `9${id}`.slice(0, 15),
      text: 'An ad that opens a conversation',
      opening: 'Tell me more',
      ref: '',
    },
  ],
  profile: { persistent_menu: [], ice_breakers: [] },
  templates: [],
  fields: null,
  quality: 'GREEN',
  tier: 'TIER_1K',
  leads: [],
  pace: new RateLimit(80),
  privatePace: new RateLimit(750, 3_600_000),
});
