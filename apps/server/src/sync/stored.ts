import type { ClientFacts, Condition } from '@dart-loop/core';
import type { DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import type { Mapping, TheirColumn } from '@dart-loop/core/sync/mapping';
import type { Connection, Db } from '../db/pool';
import { unseal } from '../secrets';

export interface Triggers {
  fields?: 'any' | string[];
  tags?: 'any' | string[];
  lists?: 'any' | string[];
}

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

export const tokenOf = (key: Buffer, { secrets }: Pick<StoredDestination, 'secrets'>): string | null =>
  secrets ? (unseal(key, secrets).token ?? null) : null;

/** A client as the core sees it. */
export async function clientFacts(db: Connection | Db, clientId: number): Promise<ClientFacts> {
  const { rows } = await db.query<ClientFacts>(
    'select name, brief, country, time_zone as "timeZone", languages, opening_hours as "openingHours" from client where id = $1',
    [clientId],
  );
  return rows[0]!;
}
