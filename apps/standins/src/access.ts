import { randomBytes } from 'node:crypto';
import { graphAccess } from './graph/access';
import type { GraphKind } from './graph/limits';
import { digits, inventedNumber } from './phone';
import { smsAccess } from './sms';

/** An account as its platform names it. */
export type StandinAccount =
  | { channel: GraphKind; id: string }
  | { channel: 'telegram'; token: string }
  | { channel: 'sms'; number: string };

/**
 * What somebody would type to connect a line on the account: the stand-ins make the same secrets from its
 * name.
 */
export function typedFor(account: StandinAccount): Record<string, string> {
  switch (account.channel) {
    case 'telegram':
      return { token: account.token };
    case 'sms':
      return { number: account.number, ...smsAccess(account.number) };
    case 'whatsapp':
      return { ...graphAccess(account.channel, account.id), numberId: account.id, wabaId: `8${account.id}` };
    default:
      return graphAccess(account.channel, account.id);
  }
}

/** An account that nobody has yet. */
export function newAccountOn(
  channel: StandinAccount['channel'],
  taken: (number: string) => boolean,
): StandinAccount {
  switch (channel) {
    case 'telegram':
      return {
        channel,
        token: `${digits(10)}:${randomBytes(27).toString('base64url').slice(0, 35)}`,
      };
    case 'sms':
      return { channel, number: inventedNumber(taken) };
    default:
      return { channel, id: digits(15) };
  }
}
