import type { Triggers } from '@dart-loop/contract';
import type { Condition } from '@dart-loop/core';
import { destinationKind, type DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import type { Mapping, TheirColumn } from '@dart-loop/core/sync/mapping';
import type { Clock } from '../platform/clock';
import type { Connection } from '../platform/db/pool';
import { signingSecret } from '../platform/outside';
import { notFound } from '../platform/problem';
import type { Keyring } from '../platform/keyring';

/** A destination as it is kept. */
export interface StoredDestination {
  client_id: number;
  id: string;
  name: string;
  kind: DestinationKindName;
  settings: unknown;
  secrets: Buffer | null;
  hint: string | null;
  mapping: Mapping;
  triggers: Triggers;
  who: Condition | null;
  state: 'off' | 'on' | 'paused';
  columns: TheirColumn[] | null;
  fails: number;
  resume_at: Date | null;
  failing_since: Date | null;
  failure: string | null;
  last_ok_at: Date | null;
}

/**
 * Whether the destination tells us of its changes: an incoming webhook is its way back. In SQL, of
 * `destination d`.
 */
export const HEARS =
  'exists (select from inlet i where i.client_id = d.client_id and i.destination_id = d.id and i.reading is not null) as hears';

/** The names that triggers may give. In SQL, of `client c`. */
export const NAMES_THERE = `array(select name from loop l where l.client_id = c.id and l.archived_at is null) as loops,
  array(select name from calendar k where k.client_id = c.id and k.gone_at is null) as calendars`;

export const tokenOf = async (
  keys: Keyring,
  { secrets }: Pick<StoredDestination, 'secrets'>,
): Promise<string | null> => (secrets ? ((await keys.unseal(secrets)).token ?? null) : null);

/** The client's destination of this id; a 404 when there is none. */
export async function storedDestination(
  db: Connection,
  clientId: number,
  id: string,
): Promise<StoredDestination> {
  const { rows } = await db.query<StoredDestination>(
    'select * from destination where client_id = $1 and id = $2',
    [clientId, id],
  );
  if (!rows[0]) throw notFound('destination');
  return rows[0];
}

/** Whether it goes out as a whole, of everybody it is for. */
export const isWhole = ({ kind }: Pick<StoredDestination, 'kind'>): boolean =>
  destinationKind(kind).isWhole === true;

/** The host it goes to; null where it is a folder of the server. */
export function hostOf({ settings }: Pick<StoredDestination, 'settings'>): string | null {
  const { address } = settings as { address?: string };
  return address === undefined ? null : new URL(address).host;
}

/** What it takes to call the system of a destination. */
export async function accessTo(
  destination: StoredDestination,
  { clock, keys, standins }: { clock: Clock; keys: Keyring; standins: string | null },
) {
  return {
    standins,
    token: await tokenOf(keys, destination),
    secret: signingSecret(keys.root, destination.client_id),
    now: () => clock.now(),
  };
}
