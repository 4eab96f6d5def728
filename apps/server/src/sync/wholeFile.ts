import { mkdir, open, rename, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { localTime, type ClientFacts, type Condition } from '@dart-loop/core';
import { addressOn, fileNameOn, headLine, rowLine, type FileSettings } from '@dart-loop/core/sync/kinds/file';
import { rowOf, type Mapping } from '@dart-loop/core/sync/mapping';
import { FileBody } from '../platform/ask';
import { inTransaction, type Db } from '../platform/db/pool';
import { readPeople } from '../people/facts';
import { askedOf, chosenSql } from '../people/select';
import { askOutside } from '../platform/outside';
import { outcomeOf, silenceOf, type CallMade, type Door, type Outcome } from './exchange';

/** People held at once, whatever their number. */
const AT_ONCE = 1_000;

export interface WholeFile {
  clientId: number;
  /** The client's folder below the one of the server. */
  slug: string;
  client: ClientFacts;
  name: string;
  settings: FileSettings;
  mapping: Mapping;
  who: Condition | null;
  /** Of the delivery: the same with every try. */
  id: string;
}

/**
 * Writes the file of everybody it is for, and puts it where it belongs: whole, or not at all. Never throws.
 */
export async function putFile(
  db: Db,
  door: Door & { files: string | null },
  whole: WholeFile,
): Promise<{ outcome: Outcome; calls: CallMade[] }> {
  const { settings, id } = whole;
  const now = door.now();
  const day = localTime(now, whole.client.timeZone).date;
  const folder =
    settings.address === undefined ? (door.files === null ? null : join(door.files, whole.slug)) : tmpdir();
  if (folder === null)
    return {
      outcome: {
        kind: 'locked',
        reason: 'this server keeps no folder for files; its DARTLOOP_FILES names one',
      },
      calls: [],
    };
  const part = join(folder, `${id}.part`);
  const began = performance.now();
  try {
    if (settings.address === undefined) await mkdir(folder, { recursive: true, mode: 0o750 });
    const rows = await write(db, whole, part, now);
    const { size } = await stat(part);
    const body = `${rows.toLocaleString('en-GB')} rows, ${size.toLocaleString('en-GB')} bytes`;
    if (settings.address === undefined) {
      const name = fileNameOn(whole.name, day);
      await rename(part, join(folder, name));
      return {
        outcome: { kind: 'done', theirId: null, words: `${name}: ${body}` },
        calls: [
          {
            request: { method: 'PUT', address: `${whole.slug}/${name}`, body },
            answer: { status: 201, body: null },
            ms: msSince(began),
          },
        ],
      };
    }
    const address = addressOn(settings.address, day);
    const file = new FileBody(part, 'text/csv; charset=utf-8', size);
    const headers = { 'idempotency-key': id, ...(door.token && { authorization: `Bearer ${door.token}` }) };
    const answer = await askOutside(
      { ...door, patienceMs: file.patienceMs },
      { method: 'PUT', address, headers, body: file },
    );
    const request = { method: 'PUT' as const, address, body };
    if (answer.kind === 'silence')
      return {
        outcome: silenceOf(answer),
        calls: [{ request, answer: { silence: answer.reason }, ms: msSince(began) }],
      };
    const { status } = answer;
    return {
      outcome: outcomeOf(status, answer.headers['retry-after'], now) ?? {
        kind: 'done',
        theirId: null,
        words: `put: ${body}`,
      },
      calls: [{ request, answer: { status, body: answer.body }, ms: msSince(began) }],
    };
  } catch (error) {
    const { code = 'no reason known' } = error as NodeJS.ErrnoException;
    return {
      outcome: { kind: 'again', reason: `the file could not be written (${code})`, afterMs: null },
      calls: [],
    };
  } finally {
    await rm(part, { force: true }).catch(() => undefined);
  }
}

const msSince = (began: number) => Math.round(performance.now() - began);

/** As of one moment, in the order of the ids; gives how many people it holds. */
function write(
  db: Db,
  { clientId, client, mapping, who }: WholeFile,
  path: string,
  now: number,
): Promise<number> {
  return inTransaction(db, async (connection) => {
    await connection.query('set transaction isolation level repeatable read, read only');
    const { from, where, values } = chosenSql(
      { q: '', rule: who },
      await askedOf(connection, clientId, now),
      3,
    );
    const out = await open(path, 'w', 0o640);
    let rows = 0;
    try {
      await out.write(headLine(mapping));
      for (let after = '00000000-0000-0000-0000-000000000000'; ;) {
        const { rows: found } = await connection.query<{ id: string }>(
          `select p.id from ${from} where ${where} and p.id > $1 order by p.id limit $2`,
          [after, AT_ONCE, ...values],
        );
        if (found.length === 0) return rows;
        const ids = found.map(({ id }) => id);
        after = ids.at(-1)!;
        const people = new Map(
          (await readPeople(connection, clientId, ids)).map((person) => [person.id, person]),
        );
        await out.write(
          ids.map((id) => rowLine(mapping, rowOf(mapping, people.get(id)!, client, now))).join(''),
        );
        rows += ids.length;
      }
    } finally {
      await out.sync();
      await out.close();
    }
  });
}
