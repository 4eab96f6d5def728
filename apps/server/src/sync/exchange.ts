import { destinationKind, type DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import type { Call, Parcel, Reply } from '@dart-loop/core/sync/kinds/kind';
import type { Answer } from '../platform/ask';
import { toJson } from '../platform/db/json';
import { askOutside, mayPass, refusalWords, signature, type Outside } from '../platform/outside';

/** A call as it is kept and shown: without its secrets. */
export interface CallMade {
  request: Call;
  /** What came back, or why nothing did. */
  answer: { status: number; body: unknown } | { silence: string };
  ms: number;
}

/**
 * How one try ended. `again`: the other side is not well, or not just now, and nothing is wrong with what was
 * sent; not before `afterMs` where it says so.
 * `locked`: it does not let us in, so all that is to go there waits for a person.
 */
export type Outcome =
  | { kind: 'done'; theirId: string | null; words: string }
  /** Nothing went out: there is nothing to send of this person, or it is not for them. */
  | { kind: 'left out'; reason: string }
  | { kind: 'refused'; reason: string }
  | { kind: 'again'; reason: string; afterMs: number | null }
  | { kind: 'locked'; reason: string };

export interface Door extends Outside {
  /** The bearer token, where the kind needs one. */
  token: string | null;
  /** The client's secret for what is signed. */
  secret: string;
  now: () => number;
}

/** Bodies are kept up to this length. */
const MOST_KEPT = 4_000;

/** Speaks with another system until the delivery is done, refused, or has to wait. Never throws. */
export async function exchange(
  door: Door,
  destination: { kind: DestinationKindName; settings: unknown },
  parcel: Parcel,
): Promise<{ outcome: Outcome; calls: CallMade[] }> {
  const kind = destinationKind(destination.kind);
  const replies: Reply[] = [];
  const calls: CallMade[] = [];
  for (;;) {
    const move = kind.next(destination.settings as never, parcel, replies);
    if (move.kind === 'unclear')
      return { outcome: { kind: 'again', reason: move.reason, afterMs: null }, calls };
    if (move.kind === 'refused' && calls.length === 0)
      return { outcome: { kind: 'left out', reason: move.reason }, calls };
    if (move.kind !== 'call') return { outcome: move, calls };
    const { reply, outcome } = await make(door, move.call, parcel.id, calls);
    if (outcome && !(reply && kind.takes.includes(reply.status))) return { outcome, calls };
    replies.push(reply!);
  }
}

/** What came of it, with what of the row was left out. */
export const wordsOf = (outcome: Outcome, { row }: Parcel): string =>
  outcome.kind === 'done'
    ? [outcome.words, ...row.problems.map(({ column, reason }) => `${column} left out: ${reason}`)].join('; ')
    : outcome.reason;

/** One call, kept in `calls`. `outcome` where the delivery can go no further for it. */
async function make(
  door: Door,
  call: Call,
  id: string,
  calls: CallMade[],
): Promise<{ reply: Reply | null; outcome: Outcome | null }> {
  const { token, secret, now } = door;
  const began = performance.now();
  const answer = await askOutside(door, {
    ...call,
    headers: {
      ...call.headers,
      ...(token ? { authorization: `Bearer ${token}` } : signature(secret, id, now(), call.body)),
    },
  });
  const ms = Math.round(performance.now() - began);
  if (answer.kind === 'silence') {
    calls.push({ request: kept(call), answer: { silence: answer.reason }, ms });
    return { reply: null, outcome: silenceOf(answer) };
  }
  const { status, body, headers } = answer;
  calls.push({ request: kept(call), answer: { status, body: short(body) }, ms });
  return { reply: { status, body }, outcome: outcomeOf(status, headers['retry-after'], now()) };
}

/** What no answer means. */
export const silenceOf = ({ code, reason }: Extract<Answer, { kind: 'silence' }>): Outcome =>
  code === 'forbidden' ? { kind: 'locked', reason } : { kind: 'again', reason, afterMs: null };

/** What a status means by itself; null when it is an answer. */
export function outcomeOf(status: number, retryAfter: string | undefined, now: number): Outcome | null {
  if (status >= 200 && status < 300) return null;
  if (status === 401 || status === 403)
    return { kind: 'locked', reason: `it does not let us in (${status})` };
  const reason = refusalWords(status);
  return mayPass(status)
    ? { kind: 'again', reason, afterMs: retryMs(retryAfter, now) }
    : { kind: 'refused', reason };
}

/** `Retry-After` in ms, as seconds or as a date (RFC 9110, 10.2.3); an hour at the most. */
export function retryMs(header: string | undefined, now: number): number | null {
  if (!header) return null;
  const seconds = /^\d+$/.test(header.trim()) ? Number(header) * 1_000 : Date.parse(header) - now;
  return Number.isNaN(seconds) || seconds <= 0 ? null : Math.min(seconds, 3_600_000);
}

const kept = (call: Call): Call => ({ ...call, body: short(call.body) });
function short(body: unknown): unknown {
  const text = toJson(body);
  return text.length <= MOST_KEPT ? body : `${text.slice(0, MOST_KEPT)} …`;
}
