import type { ChangedBy } from '../conversations/changes';
import type { Account } from '../http/route';

/** A change that somebody of the team made. */
export const byTeam = (account: Account): ChangedBy => ({
  kind: 'team',
  accountId: account.id,
  name: account.name,
});
