import type { UploadPage, PeopleAction } from '@dart-loop/contract';
import type { Value } from '@dart-loop/core';
import { outside } from '../http/route';
import type { Connection } from '../platform/db/pool';
import { notFound, Problem } from '../platform/problem';
import type { Threads } from '../platform/threads/threads';
import { valueOf } from './actions';
import { cellWorldOf } from './cellWorld';
import { MOST_COLUMNS } from './columns';
import type { AskedOf } from './segmentCompiler';
import { type Chosen, chosenSql } from './select';
import { firstPart, partsOf } from './upload';

/** What a file is, and what its columns may be for, as what a handler returns. */
export async function look(
  db: Connection,
  clientId: number,
  uploadId: string,
  now: number,
  chosen: { encoding?: UploadPage['encoding'] & 'utf-8'; separator?: string } | object,
  threads: Threads,
): Promise<unknown> {
  const { rows } = await db.query<{ name: string; bytes: number }>(
    'select name, bytes from upload where client_id = $1 and id = $2',
    [clientId, uploadId],
  );
  if (!rows[0]) throw notFound('file');
  const { name, bytes } = rows[0];
  const beginning = (await firstPart(partsOf(db, clientId, uploadId))) ?? Buffer.alloc(0);
  const fields = (
    await db.query<{ key: string; name: string; type: Value['type'] }>(
      'select key, name, type from field where client_id = $1',
      [clientId],
    )
  ).rows;
  const lines = (
    await db.query<{ key: string; channel: string }>(
      'select key, channel from line where client_id = $1 order by id',
      [clientId],
    )
  ).rows;
  const world = await cellWorldOf(db, clientId, now);
  return outside(async (): Promise<UploadPage> => {
    const seen = await threads.run('lookAtFile', {
      beginning,
      isWhole: beginning.length === bytes,
      chosen,
      known: { fields, lines },
      world,
    });
    if ('tooMany' in seen)
      throw new Problem(
        400,
        'That cannot be used',
        `The file has ${seen.tooMany} columns, and at most ${MOST_COLUMNS} are taken. Is its separator right?`,
      );
    return { id: uploadId, name, ...seen.page };
  });
}
export async function valueToSet(
  db: Connection,
  clientId: number,
  { field, value }: Extract<PeopleAction, { do: 'set' }>,
  now: number,
): Promise<Value> {
  const { rows } = await db.query<{ type: Value['type']; options: string[] }>(
    'select type, options from field where client_id = $1 and key = $2',
    [clientId, field],
  );
  if (!rows[0]) throw new Problem(400, 'That cannot be used', `action: the client has no field “${field}”.`);
  return valueOf(rows[0], value, await cellWorldOf(db, clientId, now), { part: 'action' });
}
export async function titleOf(db: Connection, clientId: number, action: PeopleAction): Promise<string> {
  switch (action.do) {
    case 'add tag':
      return `Tag ${action.tag}`;
    case 'remove tag':
      return `Remove tag ${action.tag}`;
    case 'set':
      return `Set ${action.field.replaceAll('_', ' ')} to ${action.value}`.slice(0, 200);
    case 'clear':
      return `Clear ${action.field.replaceAll('_', ' ')}`;
    case 'join list':
      return `Put on the list ${action.list}`;
    case 'leave list':
      return `Take off the list ${action.list}`;
    case 'erase':
      return 'Erase';
    case 'start loop': {
      const { rows } = await db.query<{ name: string }>(
        `
          select name from loop where client_id = $1 and id = $2 and live_version is not null
            and state = 'live' and archived_at is null`,
        [clientId, action.loopId],
      );
      if (!rows[0])
        throw new Problem(409, 'Not live', 'That loop is not live, so nobody can be started in it.');
      return `Start ${rows[0].name}`;
    }
    case 'send to': {
      const { rows } = await db.query<{ name: string }>(
        "select name from destination where client_id = $1 and id = $2 and state <> 'off'",
        [clientId, action.destinationId],
      );
      if (!rows[0])
        throw new Problem(
          409,
          'Off',
          'That destination is off, so nobody can be sent there. Switch it on, or to paused.',
        );
      return `Send to ${rows[0].name}`;
    }
  }
}
/** What an action would pass over. */
export async function previewWords(
  db: Connection,
  chosen: Chosen,
  asked: AskedOf,
  action: PeopleAction,
  total: number,
): Promise<string[]> {
  const { from, where, values } = chosenSql(chosen, asked, 1);
  const count = async (condition: string, ...more: unknown[]) =>
    (
      await db.query<{ count: number }>(
        `select count(*)::int as count from ${from} where ${where} and ${condition}`,
        [...values, ...more],
      )
    ).rows[0]!.count;
  const next = `$${values.length + 1}`;
  const people = (n: number) => (n === 1 ? '1 person' : `${n.toLocaleString('en-GB')} people`);
  switch (action.do) {
    case 'add tag':
      return [`${people(await count(`${next} = any (p.tags)`, action.tag))} have it already.`];
    case 'remove tag':
      return [`${people(await count(`not ${next} = any (p.tags)`, action.tag))} do not have it.`];
    case 'join list':
      return [
        `${people(await count(`${next} = any (p.lists)`, action.list))} stand on it already.`,
        'Whoever has left it by themselves is passed over.',
      ];
    case 'leave list':
      return [`${people(await count(`not ${next} = any (p.lists)`, action.list))} do not stand on it.`];
    case 'set':
      return [
        `${people(await count(`p.fields ? ${next}`, action.field))} have a value already; it is replaced.`,
      ];
    case 'clear':
      return [`${people(await count(`not p.fields ? ${next}`, action.field))} have no value.`];
    case 'start loop': {
      const out = await count(
        `exists (select from conversation c where c.client_id = p.client_id and c.person_id = p.id and (c.standing ->> 'optedOut')::boolean)`,
      );
      const unreachable = await count(
        'not exists (select from identity i where i.client_id = p.client_id and i.person_id = p.id)',
      );
      return [
        ...(unreachable > 0 ? [`${people(unreachable)} are reachable on no line and are passed over.`] : []),
        ...(out > 0 ? [`${people(out)} have opted out of a line; there nothing is sent to them.`] : []),
        'Messages wait for each person’s quiet hours and the client’s limits.',
      ];
    }
    case 'send to': {
      const { rows } = await db.query<{ state: string; waits: number }>(
        `
         select state, (select count(*)::int from delivery w
           where w.client_id = d.client_id and w.destination_id = d.id and w.status = 'waiting') as waits
         from destination d where client_id = $1 and id = $2`,
        [asked.clientId, action.destinationId],
      );
      const { state, waits } = rows[0] ?? { state: 'off', waits: 0 };
      return [
        'Each goes out once, as they stand when it is their turn. Whoever waits to be sent there already is not sent twice.',
        ...(state === 'paused'
          ? ['The destination is paused: they are noted, and go out when it is switched on.']
          : []),
        ...(waits > 0 ? [`${people(waits)} wait to be sent there already, and go first.`] : []),
      ];
    }
    case 'erase':
      return [
        `Everything about ${people(total)} goes from every table: messages, events, deliveries, facts, the ledger. This cannot be undone.`,
        'Numbers that had opted out stay opted out, as hashes that cannot be read back.',
      ];
  }
}
