import { conditionWords, ofConversation, type Condition } from '@dart-loop/core';
import { readSentence, whyUnread } from '@dart-loop/core/loops/edit/typedCondition';
import type { Selection } from '@dart-loop/contract';
import type { Connection, Db } from '../platform/db/pool';
import { Problem } from '../platform/problem';
import { clientFacts } from './facts';
import { peopleWordsOf } from './peopleWords';
import type { RangesBy } from './segmentQuery';
import { segmentSql, type SegmentSql } from './segmentSql';
import { like, type AskedOf } from './segmentCompiler';
import { countByTally } from './tally';
import { searchable } from './terms';

const BOTH = 'person_terms t join person p on p.client_id = t.client_id and p.id = t.person_id';

/** Which people of a client are meant: a search and a rule, or ids. */
export type Chosen = { q: string; rule: Condition | null } | { ids: readonly string[] };

/** A sentence about people as a rule; throws a 400 that names what cannot be read. */
export function ruleOf(where: string): Condition | null {
  if (where === '') return null;
  const read = readSentence(where);
  if (!read.ok)
    throw new Problem(
      400,
      'That cannot be used',
      `where: ${whyUnread(read)}. Write something such as “opted in on SMS and town is Harwick and not on the list Regulars”.`,
      { errors: [{ field: 'where', detail: read.words }] },
    );
  const within = ofConversation(read.condition);
  if (within)
    throw new Problem(
      400,
      'That cannot be used',
      `where: ${conditionWords(read.condition).slice(0, 80)} is about a conversation (${within}), and people are asked about at any time.`,
    );
  return read.condition;
}

export const chosenOf = (selection: Selection): Chosen =>
  'ids' in selection ? { ids: selection.ids } : { q: selection.q, rule: ruleOf(selection.where) };

/** What is asked with of a client's people now. */
export async function askedOf(db: Connection | Db, clientId: number, now: number): Promise<AskedOf> {
  const { segments, loopIds } = (await peopleWordsOf(db, [clientId]))(clientId);
  return { clientId, now, client: await clientFacts(db, clientId), segments, loopIds };
}

/**
 * The chosen as a condition of SQL, with the tables it needs joined to `person p`. Parameters are numbered
 * from `first`.
 */
export function chosenSql(
  chosen: Chosen,
  asked: AskedOf,
  first: number,
): { from: string; where: string; values: unknown[] } {
  if ('ids' in chosen)
    return {
      from: 'person p',
      where: `p.client_id = $${first} and p.id = any ($${first + 1}::uuid[])`,
      values: [asked.clientId, chosen.ids],
    };
  const values: unknown[] = [asked.clientId];
  const parts: string[] = [];
  let needs = { terms: false, person: true };
  if (chosen.rule) {
    const rule = segmentSql(chosen.rule, asked, first + 1);
    parts.push(rule.where);
    values.push(...rule.values);
    needs = { terms: rule.tables.terms, person: rule.tables.person };
  }
  if (chosen.q !== '') {
    needs.terms = true;
    const patterns = [`%${like(searchable(chosen.q))}%`];
    // A number is found however it is written: without its spaces, and with a nought where the country would
    // stand.
    const digits = chosen.q.replace(/\D/g, '');
    if (digits.length >= 4 && /^[\d\s()+./-]+$/.test(chosen.q))
      patterns.push(`%${digits.replace(/^0+/, '')}%`);
    values.push(patterns);
    parts.push(`t.search like any ($${first + values.length - 1}::text[])`);
  }
  return {
    from: needs.terms ? BOTH : 'person p',
    where: [`p.client_id = $${first}`, ...(needs.terms ? [`t.client_id = $${first}`] : []), ...parts].join(
      ' and ',
    ),
    values,
  };
}

/** Where what stands beside a range leaves at most so many, the rest is asked of their rows. */
const FEW = 50_000;
/** Where a range holds more than this share of everybody, and nothing stands beside it, all rows are read. */
const BROAD = 0.15;

/** How the ranges of a rule are best asked now, by what the database itself expects to find. */
async function rangesBy(
  db: Connection,
  { besideRanges, where, values }: SegmentSql,
  asked: AskedOf,
): Promise<RangesBy> {
  if (besideRanges === null) return 'index';
  const expected = async (condition: string, more: unknown[]) => {
    const { rows } = await db.query<{ 'QUERY PLAN': [{ Plan: { 'Plan Rows': number } }] }>(
      `explain (format json) select from ${BOTH}
       where t.client_id = $1 and ${condition}`,
      [asked.clientId, ...more],
    );
    return rows[0]!['QUERY PLAN'][0].Plan['Plan Rows'];
  };
  if (besideRanges !== '')
    return (await expected('t.terms @@ $2::tsquery', [besideRanges])) <= FEW ? 'rows' : 'index';
  return (await expected(where, values)) > BROAD * (await expected('true', [])) ? 'rows' : 'index';
}

/** How many are chosen. Where the index of terms says it all, the people themselves are not looked at. */
export async function countChosen(db: Connection, chosen: Chosen, asked: AskedOf): Promise<number> {
  const count = async (from: string, where: string, values: unknown[]) =>
    (await db.query<{ count: number }>(`select count(*)::int as count from ${from} where ${where}`, values))
      .rows[0]!.count;
  if (!('ids' in chosen) && chosen.rule && chosen.q === '') {
    const byIndex = segmentSql(chosen.rule, asked, 2);
    const tallied =
      byIndex.terms && (await countByTally(db, asked.clientId, byIndex.terms, byIndex.where, byIndex.values));
    if (tallied !== null) return tallied;
    const ranges = await rangesBy(db, byIndex, asked);
    const { where, values, tables } =
      ranges === 'index' ? byIndex : segmentSql(chosen.rule, asked, 2, ranges);
    const from = !tables.terms ? 'person p' : tables.person ? BOTH : 'person_terms t';
    return count(from, `${tables.terms ? 't' : 'p'}.client_id = $1 and ${where}`, [
      asked.clientId,
      ...values,
    ]);
  }
  const { from, where, values } = chosenSql(chosen, asked, 1);
  return count(from, where, values);
}
