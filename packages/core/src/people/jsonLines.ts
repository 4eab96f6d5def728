import { z } from 'zod';
import { FieldKey, LineKey, ListName, TagName } from '../loops/model/basics';
import { Value } from './person';
import type { PersonRecord } from './record';

const moment = z.iso.datetime({ offset: true }).transform((text) => Date.parse(text));
const text = (most: number) => z.string().max(most);

const Line = z
  .object({
    id: z.uuid().nullable().default(null),
    firstName: text(120).nullable().default(null),
    lastName: text(120).nullable().default(null),
    language: text(20).nullable().default(null),
    source: text(120).nullable().default(null),
    met: moment.nullable().default(null),
    seen: moment.nullable().default(null),
    tags: z.array(TagName).max(500).default([]),
    lists: z.array(ListName).max(500).default([]),
    identities: z
      .array(
        z
          .object({
            line: LineKey,
            address: z.string().min(1).max(120),
            handle: text(120).nullable().default(null),
            consent: z.enum(['opted in', 'opted out']).nullable().default(null),
          })
          .strict(),
      )
      .max(100)
      .default([]),
    fields: z.record(FieldKey, Value).default({}),
    ledger: z
      .array(
        z
          .object({
            what: z.enum(['opt-in', 'opt-out']),
            scope: z.enum(['line', 'list', 'everything']),
            line: LineKey.nullable(),
            list: ListName.nullable(),
            words: text(2_000),
            wording: z.number().int().nullable(),
            language: text(20).nullable(),
            stated: text(400).nullable(),
            confirmed: z.boolean(),
            at: moment,
          })
          .strict(),
      )
      .max(10_000)
      .default([]),
  })
  .strict();

/**
 * One person as a line of JSON, with its line end: everything that is known, values with their types, the
 * ledger with its wordings.
 */
export function jsonLine(person: PersonRecord): string {
  const iso = (at: number | null) => (at === null ? null : new Date(at).toISOString());
  const { met, seen, ledger, fields, ...rest } = person;
  const byKey = Object.fromEntries(Object.entries(fields).sort(([a], [b]) => (a < b ? -1 : 1)));
  return `${JSON.stringify({ ...rest, met: iso(met), seen: iso(seen), fields: byKey, ledger: ledger.map((entry) => ({ ...entry, at: iso(entry.at) })) })}\n`;
}

/**
 * Reads a line of {@link jsonLine}, or one of somebody else's with the same names; says what is wrong with
 * it.
 */
export function readJsonLine(
  line: string,
): { ok: true; record: PersonRecord } | { ok: false; reason: string } {
  let parsed: unknown;
  try {
    parsed = JSON.parse(line);
  } catch {
    return { ok: false, reason: 'it is no JSON; the file may have been cut off here' };
  }
  const read = Line.safeParse(parsed);
  if (read.success) return { ok: true, record: read.data };
  const issue = read.error.issues[0]!;
  return { ok: false, reason: `${issue.path.join('.') || 'the line'}: ${issue.message}` };
}
