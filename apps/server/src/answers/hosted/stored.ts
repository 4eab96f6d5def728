import { HostedModel, ModelLimits } from '@dart-loop/core/answers/hosted/settings';
import type { Connection } from '../../platform/db/pool';
import type { Keyring } from '../../platform/keyring';

/** A model as it is kept, of an agency or a client. */
export interface StoredModel {
  settings: HostedModel;
  secrets: Buffer | null;
  hint: string | null;
}

export async function agencyModel(
  db: Pick<Connection, 'query'>,
  agencyId: number,
): Promise<StoredModel | null> {
  const { rows } = await db.query<StoredModel>(
    'select settings, secrets, hint from agency_model where agency_id = $1',
    [agencyId],
  );
  return rows[0] ?? null;
}

/** What a client does with a model; null where it uses none. */
export interface ClientModelRow {
  uses: 'agency' | 'own';
  settings: HostedModel | null;
  secrets: Buffer | null;
  hint: string | null;
  limits: ModelLimits;
}

export async function clientModel(
  db: Pick<Connection, 'query'>,
  clientId: number,
): Promise<ClientModelRow | null> {
  const { rows } = await db.query<ClientModelRow>(
    'select uses, settings, secrets, hint, limits from client_model where client_id = $1',
    [clientId],
  );
  return rows[0] ?? null;
}

/** The model that answers for a client, with what it allows. */
export interface ModelInUse {
  clientId: number;
  ofAgency: boolean;
  model: HostedModel;
  limits: ModelLimits;
  key: string;
  /** The business that it speaks for, and what time it is there. */
  business: string;
  timeZone: string;
}

/** The model that a client uses; null where it uses none, or that has no key. */
export async function modelInUse(
  db: Pick<Connection, 'query'>,
  keys: Keyring,
  clientId: number,
): Promise<ModelInUse | null> {
  const { rows } = await db.query<
    Pick<ClientModelRow, 'uses' | 'limits' | 'settings' | 'secrets'> & { name: string; time_zone: string }
  >(
    `
      select m.uses, m.limits, c.name, c.time_zone,
        case m.uses when 'own' then m.settings else a.settings end as settings,
        case m.uses when 'own' then m.secrets else a.secrets end as secrets
      from client_model m join client c on c.id = m.client_id
      left join agency_model a on a.agency_id = c.agency_id
      where m.client_id = $1`,
    [clientId],
  );
  const row = rows[0];
  if (!row?.settings || !row.secrets) return null;
  const { token } = await keys.unseal(row.secrets);
  return {
    clientId,
    ofAgency: row.uses === 'agency',
    model: row.settings,
    limits: row.limits,
    key: token!,
    business: row.name,
    timeZone: row.time_zone,
  };
}
