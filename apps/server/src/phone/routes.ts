import { PhoneAct, PhoneLook, PhoneSomebody, type PhonePage } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { isTrial, type Adapters } from '../channels';
import type { Connection } from '../platform/db/pool';
import { notFound, Problem } from '../platform/problem';
import { route } from '../http/route';
import { askStandins } from './standins';

/**
 * The test phone plays a customer. It goes through the stand-ins, which call our webhooks exactly as the
 * platforms do; nothing here touches the message path. `everyLine`: every line is on a stand-in, as in the
 * demonstration; else those for trying out alone.
 */
export function testPhoneRoutes(
  { address, everyLine }: { address: string; everyLine: boolean },
  adapters: Adapters,
) {
  const account = async (db: Connection, clientId: number, lineId: number) => {
    const { rows } = await db.query<{ channel: ChannelKind; account: Record<string, string> }>(
      'select channel, account from line where client_id = $1 and id = $2 and secrets is not null',
      [clientId, lineId],
    );
    const [line] = rows;
    if (!line) throw notFound('line');
    if (!everyLine && !isTrial(line.account))
      throw new Problem(
        409,
        'Not a line for trying out',
        'This line is on the platform itself: write to it from a real telephone.',
      );
    const own = line.account[adapters.of(line).accountKey]!;
    // The stand-ins tell the accounts of the three Graph-style channels apart by channel and id.
    return { channel: line.channel, line: 'appId' in line.account ? `${line.channel}:${own}` : own };
  };
  return [
    route({
      method: 'get',
      path: '/clients/:client/test-phone',
      may: 'use the test phone',
      query: PhoneLook,
      handle: async ({ db, client, query }): Promise<PhonePage> =>
        askStandins(address, '/phone/look', {
          ...(await account(db, client.id, query.line)),
          who: query.who,
        }),
    }),
    route({
      method: 'post',
      path: '/clients/:client/test-phone/somebody',
      untraced: 'it invents somebody who has not written yet',
      may: 'use the test phone',
      body: PhoneSomebody,
      handle: async ({ db, client, body }): Promise<{ who: string }> =>
        askStandins(address, '/phone/somebody', await account(db, client.id, body.line)),
    }),
    route({
      method: 'post',
      path: '/clients/:client/test-phone',
      untraced: 'it is what a customer does, and stands in the conversation',
      may: 'use the test phone',
      body: PhoneAct,
      handle: async ({ db, client, body }): Promise<PhonePage> =>
        askStandins(address, '/phone/act', { ...body, ...(await account(db, client.id, body.line)) }),
    }),
  ];
}
