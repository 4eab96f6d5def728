import { BRIEF, briefPassages, type BriefFacts } from '@dart-loop/core/answers/brief';
import { sentencesOf } from '@dart-loop/core/answers/cutting';
import type { Passage } from '@dart-loop/core/answers/passage';
import { withoutDoubles, withoutRepeats } from '@dart-loop/core/answers/tidy';
import type { Connection } from '../platform/db/pool';

/** How the pairs are named as a source. */
export const PAIRS = 'pairs';
export { BRIEF };

/** Something that is answered from is another now; `because` says what, for whoever looks at the sheet. */
export async function sourcesChanged(db: Connection, clientId: number, because: string): Promise<void> {
  await db.query(
    'update client set sources_revision = sources_revision + 1, sources_because = $2 where id = $1',
    [clientId, because.slice(0, 200)],
  );
}

/** The client's facts that answer questions by themselves, and where its sources stand. */
export async function standing(
  db: Connection,
  clientId: number,
): Promise<{ revision: number; areEncoded: boolean; client: BriefFacts }> {
  const { rows } = await db.query<{
    sources_revision: number;
    encoded_revision: number;
    brief: BriefFacts['brief'];
    opening_hours: BriefFacts['openingHours'];
    time_zone: string;
    country: string;
    languages: string[];
  }>(
    `
      select sources_revision, encoded_revision, brief, opening_hours, time_zone, country, languages
      from client where id = $1`,
    [clientId],
  );
  const row = rows[0]!;
  return {
    revision: row.sources_revision,
    areEncoded: row.encoded_revision === row.sources_revision,
    client: {
      brief: row.brief,
      openingHours: row.opening_hours,
      timeZone: row.time_zone,
      country: row.country,
      languages: row.languages,
    },
  };
}

/** Whether a client has anything to answer from. */
export async function hasSources(db: Connection, clientId: number, client: BriefFacts): Promise<boolean> {
  if (briefPassages(client).length > 0) return true;
  const { rows } = await db.query<{ has: boolean }>(
    `
      select exists (select from passage where client_id = $1 and not is_muted)
        or exists (select from pair where client_id = $1) as has`,
    [clientId],
  );
  return rows[0]!.has;
}

interface PassageRow {
  id: string;
  source_id: string;
  kind: string;
  address: string;
  headings: string[];
  sentences: string[];
  corrected: string | null;
  wordings: string[];
}

/** Everything that a client's questions are answered from: brief, pairs, documents and pages. */
export async function passagesOfClient(
  db: Connection,
  clientId: number,
  client: BriefFacts,
): Promise<Passage[]> {
  const { rows: pairs } = await db.query<{
    id: string;
    question: string;
    wordings: string[];
    answer: string;
  }>('select id, question, wordings, answer from pair where client_id = $1 order by id', [clientId]);
  const { rows } = await db.query<PassageRow>(
    `
      select p.id, g.source_id, s.kind, g.address, p.headings, p.sentences, p.corrected, p.wordings
      from passage p
      join source_page g on g.client_id = p.client_id and g.id = p.page_id
      join source s on s.client_id = g.client_id and s.id = g.source_id
      where p.client_id = $1 and not p.is_muted
      order by g.source_id, g.address, p.place`,
    [clientId],
  );
  const bySource = new Map<string, Passage[]>();
  for (const row of rows) {
    const passages = bySource.get(row.source_id) ?? [];
    bySource.set(row.source_id, passages);
    const sentences = row.corrected === null ? row.sentences : sentencesOf(row.corrected);
    const { id, headings, wordings } = row;
    if (sentences.length > 0) passages.push({ id, source: row.address, headings, sentences, wordings });
  }
  return withoutDoubles([
    ...pairs.map(({ id, question, wordings, answer }) => ({
      ...{ id, source: PAIRS, headings: [question], sentences: sentencesOf(answer) },
      wordings: [question, ...wordings],
    })),
    ...briefPassages(client),
    ...[...bySource.values()].flatMap(withoutRepeats),
  ]);
}
