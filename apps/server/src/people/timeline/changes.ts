import { valueWords, type Value } from '@dart-loop/core';
import type { By } from '@dart-loop/contract';
import type { ChangedBy } from '../../conversations/changes';
import { byWords } from '../byWords';
import { entriesOf, MOST, type Source } from './source';

/** What was written into fields, and what stood there before. */
export const fieldChanges: Source = async ({ db, key, names }) => {
  const { entries, add } = entriesOf();
  const fields = await db.query<{
    field: string;
    before: Value | null;
    after: Value | null;
    at: Date;
    by: ChangedBy;
  }>(
    `
      select field, before, after, at, by from field_change
      where client_id = $1 and person_id = any ($2::uuid[]) order by id desc limit ${MOST}`,
    key,
  );
  for (const { field, before, after, at, by } of fields.rows)
    add(
      at,
      'fact',
      `${names.get(field) ?? field.replaceAll('_', ' ')} ${after ? `= ${valueWords(after)}` : 'cleared'}${before ? `, before: ${valueWords(before)}` : ''}`,
      byWords(by),
    );
  return entries;
};

/** Marks of a kind, put on and taken off. */
const marks =
  (kind: 'tag' | 'list', on: string, off: string): Source =>
  async ({ db, key }) => {
    const { entries, add } = entriesOf();
    const { rows } = await db.query<{ name: string; is_on: boolean; at: Date; by: ChangedBy }>(
      `
        select ${kind} as name, is_on, at, by from ${kind}_change
        where client_id = $1 and person_id = any ($2::uuid[]) order by id desc limit ${MOST}`,
      key,
    );
    for (const { name, is_on, at, by } of rows)
      add(at, kind, `${kind} ${name} ${is_on ? on : off}`, byWords(by));
    return entries;
  };

/** Tags, on and off. */
export const tagChanges = marks('tag', 'on', 'off');

/** Lists, joined and left. */
export const listChanges = marks('list', 'joined', 'left');

/** What they have agreed to and objected to. */
export const consents: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
  const consents = await db.query<{
    what: 'opt-in' | 'opt-out' | 'undone';
    words: string;
    line: string | null;
    scope: string;
    list: string | null;
    stated: string | null;
    at: Date;
    by: ChangedBy | null;
  }>(
    `
     select c.what, c.words, l.name as line, c.scope, c.list, c.stated, c.at, c.by from consent c
     left join line l on l.client_id = c.client_id and l.id = c.line_id
     where c.client_id = $1 and c.person_id = any ($2::uuid[]) order by c.id desc limit ${MOST}`,
    key,
  );
  for (const entry of consents.rows) {
    const about = entry.scope === 'everything' ? 'everything' : (entry.list ?? entry.line ?? 'a line');
    const by: By = entry.by
      ? byWords(entry.by)
      : { words: `the person, who wrote “${entry.words}”`, loopId: null, stepId: null };
    add(
      entry.at,
      'consent',
      entry.what === 'undone'
        ? `what was recorded on ${about} is undone: ${entry.words}`
        : `opted ${entry.what === 'opt-out' ? 'out of' : entry.scope === 'list' ? 'in to' : 'in on'} ${about}${entry.stated ? `: ${entry.stated}` : ''}`,
      by,
    );
  }
  return entries;
};
