import { fold } from '@dart-loop/core/language/fold';
import type { Passage } from '@dart-loop/core/answers/passage';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';

/** A page as it was read just now. */
export interface ReadPage {
  /** By which it is found again. */
  address: string;
  /** What it is called from now on; left out: as before. */
  renamed?: string;
  title: string;
  language?: string | null;
  /** In which reading of a site it was met. */
  run?: string;
  passages: readonly Passage[];
  words: number;
}

interface Kept {
  id: string;
  headings: string[];
  sentences: string[];
  corrected: string | null;
  wordings: string[];
  is_muted: boolean;
}

/** What a passage is known again by when its page is read anew: below which heading it stands. */
const keyOf = ({ headings }: Pick<Passage, 'headings'>): string => fold(headings.join(' / '));

/**
 * Writes down what a page says, in place of what it said before. What people made of its passages (corrected,
 * muted, questions that they answer) stays with what stands below the same heading; a correction goes where
 * the text itself has changed since, as it may be wrong by now. Whether anything is another now.
 */
export async function writePage(
  db: Connection,
  clientId: number,
  sourceId: string,
  page: ReadPage,
  now: number,
): Promise<boolean> {
  const at = new Date(now);
  const { rows: pages } = await db.query<{ id: string }>(
    `
      insert into source_page (client_id, id, source_id, address, title, language, state, words, read_at,
        changed_at, run)
      values ($1, $2, $3, $4, $5, $6, case when $7 = 0 then 'nothing in it' else 'read' end, $7, $8, $8, $9)
      on conflict (client_id, source_id, address) do update
        set title = excluded.title, language = excluded.language, words = excluded.words, failure = null,
          state = excluded.state, read_at = excluded.read_at, run = excluded.run,
          changed_at = coalesce(source_page.changed_at, excluded.changed_at)
      returning id`,
    [
      ...[clientId, newId(now), sourceId, page.address, page.title, page.language ?? null, page.words, at],
      page.run ?? null,
    ],
  );
  const pageId = pages[0]!.id;
  if (page.renamed !== undefined)
    await db.query('update source_page set address = $3 where client_id = $1 and id = $2', [
      clientId,
      pageId,
      page.renamed,
    ]);
  const { rows: kept } = await db.query<Kept>(
    `
      select id, headings, sentences, corrected, wordings, is_muted from passage
      where client_id = $1 and page_id = $2 order by place`,
    [clientId, pageId],
  );
  const said = (passages: readonly Pick<Passage, 'headings' | 'sentences'>[]) =>
    toJson(passages.map(({ headings, sentences }) => [headings, sentences]));
  if (said(kept) === said(page.passages)) return false;
  const known = new Map<string, Kept[]>();
  for (const each of kept) known.set(keyOf(each), [...(known.get(keyOf(each)) ?? []), each]);
  const rows = page.passages.map(({ headings, sentences }, place) => {
    const before = known.get(keyOf({ headings }))?.shift();
    const isSame = before !== undefined && toJson(before.sentences) === toJson(sentences);
    return {
      ...{ id: before?.id ?? newId(now), place, headings, sentences },
      corrected: isSame ? before.corrected : null,
      wordings: before?.wordings ?? [],
      is_muted: before?.is_muted ?? false,
    };
  });
  await db.query('delete from passage where client_id = $1 and page_id = $2', [clientId, pageId]);
  await db.query(
    `
      insert into passage (client_id, id, page_id, place, headings, sentences, corrected, wordings, is_muted)
      select $1, r.id, $2, r.place, array(select jsonb_array_elements_text(r.headings)),
        array(select jsonb_array_elements_text(r.sentences)), r.corrected,
        array(select jsonb_array_elements_text(r.wordings)), r.is_muted
      from jsonb_to_recordset($3) as r (id uuid, place int, headings jsonb, sentences jsonb, corrected text,
        wordings jsonb, is_muted boolean)`,
    [clientId, pageId, toJson(rows)],
  );
  await db.query('update source_page set changed_at = $3 where client_id = $1 and id = $2', [
    clientId,
    pageId,
    at,
  ]);
  return true;
}
