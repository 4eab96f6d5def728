import type { AsideKind, OpenLine } from '../channels/adapter';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';

export interface Aside {
  clientId: number;
  lineId: number;
  kind: AsideKind;
  /** A sentence without its full stop. */
  reason: string;
  /** What is tried again; see the migration. */
  body: string;
  conversationId?: string | null;
  /** When it is tried again by itself, in ms. */
  againAt?: number | null;
}

/** What is kept of a body that nobody can read. One that can be tried again is kept whole. */
const MOST_UNREADABLE = 20_000;
const MINUTE = 60_000;

/** Puts aside what cannot be processed now; nothing else waits for it. */
export async function putAside(db: Db | Connection, aside: readonly Aside[], now: number): Promise<void> {
  if (aside.length === 0) return;
  await db.query(
    `
     insert into aside (client_id, line_id, received_at, kind, reason, body, conversation_id, again_at)
     select client_id, line_id, $1, kind, reason, body, conversation_id, again_at
     from unnest($2::int[], $3::int[], $4::text[], $5::text[], $6::text[], $7::uuid[], $8::timestamptz[]) as t
       (client_id, line_id, kind, reason, body, conversation_id, again_at)`,
    [
      new Date(now),
      aside.map((each) => each.clientId),
      aside.map((each) => each.lineId),
      aside.map((each) => each.kind),
      aside.map((each) => each.reason.slice(0, 500)),
      aside.map((each) => (each.kind === 'not understood' ? each.body.slice(0, MOST_UNREADABLE) : each.body)),
      aside.map((each) => each.conversationId ?? null),
      aside.map((each) =>
        each.againAt === undefined || each.againAt === null ? null : new Date(each.againAt),
      ),
    ],
  );
}

/** What a failure says of itself that may be shown: never a text of somebody's. */
export function reasonOf(error: unknown): string {
  const { code, name } = error as { code?: string; name?: string };
  if (code?.startsWith('22') || code?.startsWith('54'))
    return 'a value in it is longer or larger than can be kept';
  return code
    ? `the database refused it (${code})`
    : `the program met a fault of its own (${name ?? 'error'})`;
}

export const NO_ANSWERS = 'the platform does not say what was answered in a lead form';
/** A lead form whose answers are asked for later. */
export const leadAside = (line: OpenLine, lead: object, now: number): Aside => ({
  clientId: line.clientId,
  lineId: line.id,
  kind: 'lead form',
  reason: NO_ANSWERS,
  body: toJson(lead),
  againAt: now + MINUTE,
});
