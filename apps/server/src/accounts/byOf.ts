import type { Asked } from '../http/route';
import type { By } from '../platform/db/agencyAudit';

/** Who changes something, for the audit. */
export const byOf = (
  { account, request }: Pick<Asked<unknown, unknown>, 'account' | 'request'>,
  now: number,
): By => ({ agencyId: account.agencyId, accountId: account.id, now, address: request.ip ?? null });
