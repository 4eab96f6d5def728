import { destinationKind } from '@dart-loop/core/sync/kinds/index';
import { mappingFindings } from '@dart-loop/core/sync/mapping';
import type { FieldTypes } from '@dart-loop/core';
import type { DestinationPage, DestinationRow } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { Problem, notFound } from '../platform/problem';
import { revisionOf } from '../http/revision';
import { hostOf, type StoredDestination } from './stored';

/** Destinations as their list and their page show them. */

export const revisionOfDestination = ({
  name,
  settings,
  mapping,
  triggers,
  who,
  hint,
}: StoredDestination): string => revisionOf([name, settings, mapping, triggers, who, hint]);

export type Found = StoredDestination & { waiting: number; shelf: number };
export const rowView = (row: Found): DestinationRow => ({
  id: row.id,
  name: row.name,
  kind: row.kind,
  what: destinationKind(row.kind).words,
  host: hostOf(row),
  state: row.state,
  waiting: row.waiting,
  shelf: row.shelf,
  failingSince: row.failing_since?.toISOString() ?? null,
  failure: row.failure,
  resumesAt: row.resume_at?.toISOString() ?? null,
  lastOkAt: row.last_ok_at?.toISOString() ?? null,
});

/**
 * The client's destinations as they are kept, with what waits and what failed; or the one of
 * this id.
 */
export const found = async (db: Connection, clientId: number, id: string | null = null): Promise<Found[]> =>
  (
    await db.query<Found>(
      `
       select d.*,
         (select count(*)::int from delivery w where w.client_id = d.client_id and w.destination_id = d.id
           and w.status = 'waiting') as waiting,
         (select count(*)::int from delivery w where w.client_id = d.client_id and w.destination_id = d.id
           and w.status = 'shelf') as shelf
       from destination d where client_id = $1 and ($2::uuid is null or id = $2) order by name`,
      [clientId, id],
    )
  ).rows;
const typesOf = async (db: Connection, clientId: number): Promise<FieldTypes> =>
  Object.fromEntries(
    (
      await db.query<{ key: string; type: FieldTypes[string] }>(
        'select key, type from field where client_id = $1',
        [clientId],
      )
    ).rows.map(({ key: field, type }) => [field, type]),
  );
/** Everything that a destination's page shows; a 404 where there is none. */
export const pageOf = async (db: Connection, clientId: number, id: string): Promise<DestinationPage> => {
  const [kept] = await found(db, clientId, id);
  if (!kept) throw notFound('destination');
  const { hint, mapping, triggers, who, columns } = kept;
  const findings = mappingFindings(mapping, await typesOf(db, clientId), columns);
  const revision = revisionOfDestination(kept);
  return {
    ...rowView(kept),
    revision,
    settings: kept.settings as DestinationPage['settings'],
    hint,
    mapping,
    triggers,
    who,
    columns,
    findings,
  };
};
/** What stops a destination from being switched on is said at once, and not at night by the deliveries. */
export function stopFor({ findings, mapping, kind }: DestinationPage): void {
  const stops = findings
    .filter((finding) => finding.stops)
    .map(({ column, reason }) => `${column}: ${reason}`);
  if (mapping.length === 0 && kind !== 'webhook')
    stops.push('mapping: nothing would go out; map at least one column.');
  if (stops.length > 0) throw new Problem(409, 'It cannot be switched on', stops.join(' '));
}
