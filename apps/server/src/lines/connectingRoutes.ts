import { ConnectLine, TrialLine, type LineRow } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { cuesChanged } from '../loops/cueRevision';
import { askStandins } from '../phone/standins';
import { isTrial } from '../channels';
import type { Adapter, Connecting, Failure } from '../channels/adapter';
import { audit } from '../platform/db/audit';
import type { Connection } from '../platform/db/pool';
import { newToken } from '../platform/ids';
import { notFound, Problem } from '../platform/problem';
import { route } from '../http/route';
import type { LineOptions, LineParts, Row } from './lineRows';
import { refreshTemplates } from './templates';

type Connected = Extract<Connecting, { ok: true }>;

/** A line is connected, on its platform or for trying out, or its secrets are renewed. */
export function connectingRoutes(
  { clock, keys, adapters, standins, hookAddress, linesChanged }: LineOptions,
  { one, openLine, shown }: LineParts,
) {
  const linesOf = async (db: Connection, clientId: number, channel: ChannelKind): Promise<Row[]> =>
    (
      await db.query<Row>('select l.* from line l where l.client_id = $1 and l.channel = $2 order by l.id', [
        clientId,
        channel,
      ])
    ).rows;

  /** Writes a line down: anew, or over the one that stands on the same account. */
  const keep = async (
    db: Connection,
    clientId: number,
    channel: ChannelKind,
    token: string,
    { name, account, secrets }: Connected,
    before: Row | undefined,
  ): Promise<number> => {
    const hints = Object.fromEntries(Object.entries(secrets).map(([key, secret]) => [key, secret.slice(-4)]));
    const kept = [name, account, keys.seal(secrets), hints, new Date(clock.now())];
    if (before) {
      await db.query(
        `
          update line set name = $3, account = $4, secrets = $5, secret_hints = $6, connected_at = $7,
            failing_since = null, failure = null where client_id = $1 and id = $2`,
        [clientId, before.id, ...kept],
      );
      return before.id;
    }
    const made = await db.query<{ id: number }>(
      `
        insert into line (client_id, key, channel, hook_token, name, account, secrets, secret_hints,
          connected_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
      [clientId, await freeKey(db, clientId, channel), channel, token, ...kept],
    );
    return made.rows[0]!.id;
  };

  /** What follows once a line is written down. */
  const finish = async (
    db: Connection,
    clientId: number,
    lineId: number,
    adapter: Adapter,
  ): Promise<LineRow> => {
    await cuesChanged(db, clientId);
    const made = await one(db, clientId, String(lineId));
    await refreshTemplates(db, adapter, await openLine(clientId, made));
    return shown(await one(db, clientId, String(lineId)));
  };

  return [
    route({
      method: 'post',
      path: '/clients/:client/lines',
      may: 'change lines',
      body: ConnectLine,
      /**
       * Connects a line, or renews the secrets of one that stands on the same account: nothing of it is lost
       * then.
       */
      async handle({ client, db, account, body, afterwards }): Promise<LineRow> {
        const { channel, renews, ...given } = body;
        const existing = await linesOf(db, client.id, channel);
        const renewed = existing.find((row) => row.id === renews);
        if (renews !== undefined && !renewed) throw notFound('line');
        const trial = renewed !== undefined && isTrial(renewed.account);
        const adapter = adapters.newOn(channel, trial);
        const typed: Record<string, string> = {
          ...(renewed && {
            ...adapter.typedOf(renewed.account),
            ...(renewed.secrets && (await keys.unseal(renewed.secrets))),
          }),
          ...Object.fromEntries(Object.entries(given).filter(([, words]) => words.trim() !== '')),
        };
        const typedAccount = await adapter.accountOf(typed);
        const before = existing.find(
          (row) => isTrial(row.account) === trial && row.account[adapter.accountKey] === typedAccount,
        );
        if (renewed && before && before.id !== renewed.id) throw otherAccount(renewed.name);
        const token = before?.hook_token ?? newToken();
        const connecting = await adapter.connect(typed, token, hookAddress(token));
        if (!connecting.ok) throw notConnected(connecting.failure, connecting.field);
        // A new line must not come of a renewal by mistake.
        if (
          renewed &&
          !before &&
          connecting.account[adapter.accountKey] !== renewed.account[adapter.accountKey]
        )
          throw otherAccount(renewed.name);
        const lineId = await keep(db, client.id, channel, token, marked(connecting, trial), before);
        afterwards(() => linesChanged(client.id));
        const { name } = connecting;
        const did = before ? 'renewed a line' : 'connected a line';
        await audit(db, client.id, account.id, clock.now(), did, { lineId, channel, name });
        return finish(db, client.id, lineId, adapter);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/lines/trial',
      may: 'change lines',
      body: TrialLine,
      /** A line on a stand-in of the channel, which the test phone alone can write to. */
      async handle({ client, db, account, body: { channel }, afterwards }): Promise<LineRow> {
        if (standins === null)
          throw new Problem(
            409,
            'The test phone is off',
            'Lines for trying out need it. Set DARTLOOP_TEST_PHONE=yes and start the server again.',
          );
        const adapter = adapters.newOn(channel, true);
        const { typed } = await askStandins<{ typed: Record<string, string> }>(standins, '/phone/line', {
          channel,
          name: client.name,
        });
        const token = newToken();
        const connecting = await adapter.connect(typed, token, hookAddress(token));
        if (!connecting.ok) throw notConnected(connecting.failure, connecting.field);
        const lineId = await keep(db, client.id, channel, token, marked(connecting, true), undefined);
        afterwards(() => linesChanged(client.id));
        const { name } = connecting;
        await audit(db, client.id, account.id, clock.now(), 'connected a line', { lineId, channel, name });
        return finish(db, client.id, lineId, adapter);
      },
    }),
  ];
}

/** What was connected, with the mark of a line for trying out where it is one. */
const marked = (connected: Connected, trial: boolean): Connected =>
  trial ? { ...connected, account: { ...connected.account, trial: 'yes' } } : connected;

/** The name that loop files give a new line: its channel, with a number where that is taken. */
async function freeKey(db: Connection, clientId: number, channel: ChannelKind): Promise<string> {
  const { rows } = await db.query<{ key: string }>('select key from line where client_id = $1', [clientId]);
  const taken = new Set(rows.map(({ key }) => key));
  let key: string = channel;
  for (let n = 2; taken.has(key); n++) key = `${channel}-${n}`;
  return key;
}

function notConnected({ reason, remedy }: Failure, field: string): Problem {
  const detail = `${reason} ${remedy}`;
  return new Problem(422, 'Not connected', detail, { errors: [{ field, detail }] });
}

const otherAccount = (name: string) =>
  new Problem(
    422,
    'Not renewed',
    `These secrets are of another account. To renew ${name}, take them from its own page; to connect the other account, add a line.`,
  );
