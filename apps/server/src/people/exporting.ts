import type { Response } from 'express';
import { cellsLine, csvColumns, csvLine } from '@dart-loop/core/people/csvWriting';
import { jsonLine } from '@dart-loop/core/people/jsonLines';
import type { LedgerEntry, PersonRecord } from '@dart-loop/core/people/record';
import { vCardOf } from '@dart-loop/core/people/vCard';
import type { Value } from '@dart-loop/core';
import type { Connection } from '../platform/db/pool';
import { chosenSql, type Chosen } from './select';
import type { AskedOf } from './segmentCompiler';

export type PeopleFormat = 'csv' | 'jsonl' | 'vcard';
export const FORMATS: Record<PeopleFormat, { type: string; ending: string }> = {
  csv: { type: 'text/csv; charset=utf-8', ending: 'csv' },
  jsonl: { type: 'application/jsonl; charset=utf-8', ending: 'jsonl' },
  vcard: { type: 'text/vcard; charset=utf-8', ending: 'vcf' },
};

/** People held at once, whatever their number. */
const AT_ONCE = 500;
/** How long a file that is not read is held open. */
const UNREAD_MS = 60_000;

interface Row {
  id: string;
  first_name: string | null;
  last_name: string | null;
  language: string | null;
  source: string | null;
  met: Date;
  seen: Date;
  tags: string[];
  lists: string[];
  fields: Record<string, Value>;
  identities: PersonRecord['identities'] | null;
  ledger: (Omit<LedgerEntry, 'at'> & { at: string })[] | null;
}

const IDENTITIES = `(select jsonb_agg(jsonb_build_object('line', l.key, 'address', i.address, 'handle', i.handle, 'consent',
    case when (c.standing ->> 'optedOut')::boolean then 'opted out' when (c.standing ->> 'optedIn')::boolean then 'opted in' end) order by l.id, i.created_at, i.id)
  from identity i join line l on l.client_id = i.client_id and l.id = i.line_id left join conversation c on c.client_id = i.client_id and c.id = i.id
  where i.client_id = p.client_id and i.person_id = p.id)`;
const LEDGER = `(select jsonb_agg(jsonb_build_object('what', k.what, 'scope', k.scope, 'line', l.key, 'list', k.list, 'words', k.words, 'wording', k.wording,
    'language', k.language, 'stated', k.stated, 'confirmed', k.confirmed, 'at', k.at) order by k.id)
  from consent_now k left join line l on l.client_id = k.client_id and l.id = k.line_id where k.client_id = p.client_id and k.person_id = p.id)`;

/**
 * Writes the chosen people to a response, in the order of their ids, as of one moment: a cursor of the
 * database gives them a few at a time, and nothing is written faster than the other side takes it.
 */
export async function writePeople(
  db: Connection,
  response: Response,
  asked: AskedOf,
  chosen: Chosen,
  format: PeopleFormat,
): Promise<void> {
  const fields = (
    await db.query<{ key: string }>('select key from field where client_id = $1 order by key', [
      asked.clientId,
    ])
  ).rows.map((row) => row.key);
  const lines = (
    await db.query<{ key: string }>('select key from line where client_id = $1 order by id', [asked.clientId])
  ).rows.map((row) => row.key);
  const { from, where, values } = chosenSql(chosen, asked, 1);
  await db.query(
    `declare everybody no scroll cursor for
     select p.id, p.first_name, p.last_name, p.language, p.source, p.created_at as met, p.last_seen_at as seen, p.tags, p.lists, p.fields,
       ${IDENTITIES} as identities, ${format === 'csv' ? 'null' : LEDGER} as ledger
     from ${from} where ${where} order by p.id`,
    values,
  );
  const write = async (text: string) => {
    if (!response.write(text)) await read(response);
  };
  if (format === 'csv') await write(cellsLine(csvColumns(lines, fields)));
  while (!response.destroyed) {
    const { rows } = await db.query<Row>(`fetch ${AT_ONCE} from everybody`);
    if (rows.length === 0) break;
    const people = rows.map(recordOf);
    await write(
      people
        .map((person) =>
          format === 'csv'
            ? csvLine(person, lines, fields)
            : format === 'jsonl'
              ? jsonLine(person)
              : vCardOf(person),
        )
        .join(''),
    );
  }
  response.end();
}

/**
 * Until what was written is read. Whoever reads nothing for a minute is let go of, and the connection with
 * them.
 */
function read(response: Response): Promise<void> {
  return new Promise((go) => {
    const patience = setTimeout(() => response.destroy(), UNREAD_MS);
    const done = () => {
      clearTimeout(patience);
      response.off('drain', done).off('close', done);
      go();
    };
    response.on('drain', done).on('close', done);
  });
}

const recordOf = (row: Row): PersonRecord => ({
  id: row.id,
  firstName: row.first_name,
  lastName: row.last_name,
  language: row.language,
  source: row.source,
  met: row.met.getTime(),
  seen: row.seen.getTime(),
  tags: row.tags,
  lists: row.lists,
  identities: row.identities ?? [],
  fields: row.fields,
  ledger: (row.ledger ?? []).map((entry) => ({ ...entry, at: Date.parse(entry.at) })),
});
