import type { Triggers } from '@dart-loop/contract';
import type { Condition } from '@dart-loop/core';
import type { DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import type { Mapping, TheirColumn } from '@dart-loop/core/sync/mapping';
import { unseal } from '../secrets';

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
