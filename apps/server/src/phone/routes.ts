import { PhoneAct, PhoneLook, PhoneSomebody, type PhonePage } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import type { Adapters } from '../channels';
import { toJson } from '../platform/db/json';
import { notFound, Problem } from '../platform/problem';
import { route } from '../http/route';

/**
 * The test phone plays a customer. It goes through the stand-ins, which call our webhooks exactly as the
 * platforms do; nothing here touches the message path.
 */
export function testPhoneRoutes(standins: string, adapters: Adapters) {
  const ask = async <T = PhonePage>(path: string, body: unknown): Promise<T> => {
    const response = await fetch(`${standins}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: toJson(body),
      signal: AbortSignal.timeout(10_000),
    }).catch(() => {
      throw new Problem(
        502,
        'The test phone is off',
        'The stand-ins cannot be reached. Start them with ./dartloop demo.',
      );
    });
    const answer = (await response.json()) as T & { reason?: string };
    if (!response.ok)
      throw new Problem(
        502,
        'The test phone got no answer',
        answer.reason ?? `The stand-ins answered ${response.status}.`,
      );
    return answer;
  };
  const account = async (
    db: {
      query: (
        text: string,
        values: unknown[],
      ) => Promise<{ rows: { channel: ChannelKind; account: Record<string, string> }[] }>;
    },
    clientId: number,
    lineId: number,
  ) => {
    const { rows } = await db.query(
      'select channel, account from line where client_id = $1 and id = $2 and secrets is not null',
      [clientId, lineId],
    );
    if (!rows[0]) throw notFound('line');
    const { channel, account } = rows[0];
    const own = account[adapters[channel].accountKey];
    // The stand-ins tell the accounts of the three Graph-style channels apart by channel and id.
    return { channel, line: 'appId' in account ? `${channel}:${own}` : own };
  };
  return [
    route({
      method: 'get',
      path: '/clients/:client/test-phone',
      may: 'use the test phone',
      query: PhoneLook,
      handle: async ({ db, client, query }): Promise<PhonePage> =>
        ask('/phone/look', { ...(await account(db as never, client.id, query.line)), who: query.who }),
    }),
    route({
      method: 'post',
      path: '/clients/:client/test-phone/somebody',
      untraced: 'it invents somebody who has not written yet',
      may: 'use the test phone',
      body: PhoneSomebody,
      handle: async ({ db, client, body }): Promise<{ who: string }> =>
        ask<{ who: string }>('/phone/somebody', await account(db as never, client.id, body.line)),
    }),
    route({
      method: 'post',
      path: '/clients/:client/test-phone',
      untraced: 'it is what a customer does, and stands in the conversation',
      may: 'use the test phone',
      body: PhoneAct,
      handle: async ({ db, client, body }): Promise<PhonePage> =>
        ask('/phone/act', { ...body, ...(await account(db as never, client.id, body.line)) }),
    }),
  ];
}
