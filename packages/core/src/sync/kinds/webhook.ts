import { z } from 'zod';
import { OutsideAddress } from '../../engine/steps/outsideAddress';
import { mergeJson } from '../../language/merge';
import { cloudEvent } from '../cloudEvent';
import { worldOf } from '../mapping';
import type { DestinationKind } from './kind';

export const WebhookSettings = z
  .object({
    address: OutsideAddress,
    /** A JSON body with merge fields; absent: a CloudEvent with the mapped columns. */
    body: z.json().optional(),
  })
  .strict();

/**
 * A signed webhook (Standard Webhooks), its body a CloudEvent (1.0, structured JSON) or the builder's own.
 */
export const webhook: DestinationKind<z.infer<typeof WebhookSettings>> = {
  kind: 'webhook',
  words: 'A signed webhook',
  settings: WebhookSettings,
  needsToken: false,
  takes: [],
  next({ address, body }, parcel, [reply]) {
    if (reply) return { kind: 'done', theirId: null, words: `taken, ${reply.status}` };
    const { person, client } = parcel;
    const event = () =>
      cloudEvent(client.name, {
        id: parcel.id,
        type: 'person.changed',
        subject: person.id,
        at: parcel.at,
        data: { ...parcel.row.cells },
      });
    const sent = body === undefined ? event() : mergeJson(body, worldOf(person, client, parcel.at));
    return { kind: 'call', call: { method: 'POST', address, body: sent } };
  },
};
