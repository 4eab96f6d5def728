import { createHash } from 'node:crypto';
import type { Logger } from 'pino';
import { happened, type Clock } from '../platform/clock';
import { cleanText, toJson } from '../platform/db/json';
import { isDatabaseAway, lostToAnother, type Db } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { HookReading, OpenLine, Received } from '../channels/adapter';
import { faultPoint } from '../platform/fault';
import { putAside, reasonOf, type Aside } from './setAside';

/** Beyond this many events waiting for their batch, the platform is asked to come again (503). */
const MOST_WAITING = 5_000;
const MOST_IN_BATCH = 200;
/** How long an event waits for the one that the platform counted before it. */
const PATIENCE_FOR_GAP_MS = 1_000;
const MOST_REMEMBERED = 200_000;
/** Characters of a platform's id of somebody or of an event; all that are known have far fewer. */
const LONGEST_ID = 200;
/** Tries of one event that the database refuses. */
const MOST_TRIES = 3;

interface Waiting {
  line: OpenLine;
  received: Received;
  resolve: () => void;
  reject: (error: Error) => void;
}

export class Overloaded extends Error {}

/**
 * Stores events before their 200: those that arrive together in one statement, each once (unique on line and
 * the platform's event id). One batch is in flight at a time.
 */
export class Receiver {
  #waiting: Waiting[] = [];
  #busy = false;
  #conversations = new Map<string, string>();
  #gaps = new Gaps();
  #heard = new Map<number, number>();

  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly log: Logger,
    private readonly stored: () => void,
  ) {}

  /** Resolves once everything in the reading is durable. Throws {@link Overloaded} when too much waits. */
  async store(line: OpenLine, reading: HookReading): Promise<void> {
    if (this.#waiting.length + reading.received.length > MOST_WAITING) throw new Overloaded();
    faultPoint(1);
    this.#heard.set(line.id, this.clock.now());
    const { clientId, id: lineId } = line;
    const aside = reading.aside.map((each): Aside => ({
      clientId,
      lineId,
      ...each,
      kind: each.kind ?? 'not understood',
    }));
    const received = reading.received.flatMap((each) => {
      const fits = fitting(each);
      if (fits) return [fits];
      aside.push({
        clientId,
        lineId,
        kind: 'not stored',
        reason: 'the id of its sender is longer than any that is known',
        body: toJson(each),
      });
      return [];
    });
    await putAside(this.db, aside, this.clock.now());
    const stored = received.map(
      (each) =>
        new Promise<void>((resolve, reject) => this.#waiting.push({ line, received: each, resolve, reject })),
    );
    void this.#pump();
    await Promise.all(stored);
    faultPoint(2);
  }

  /** Writes down when each line was last heard; called now and then, not per event. */
  async noteHeard(): Promise<number[]> {
    const heard = [...this.#heard];
    this.#heard.clear();
    if (heard.length === 0) return [];
    const { rows } = await this.db.query<{ client_id: number }>(
      `
        update line set last_heard_at = greatest(last_heard_at, h.at)
        from unnest($1::int[], $2::timestamptz[]) as h (id, at) where line.id = h.id returning client_id`,
      [heard.map(([id]) => id), heard.map(([, at]) => new Date(at))],
    );
    return rows.map((row) => row.client_id);
  }

  async #pump(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    try {
      while (this.#waiting.length > 0) {
        const batch = this.#waiting.splice(0, MOST_IN_BATCH);
        try {
          await this.#write(batch);
          for (const each of batch) each.resolve();
        } catch (error) {
          if (isDatabaseAway(error)) for (const each of batch) each.reject(error as Error);
          else await this.#writeAlone(batch);
        }
        this.stored();
      }
    } finally {
      this.#busy = false;
    }
  }

  /**
   * What was refused in company is tried event by event; one that is refused alone is put aside, and its
   * neighbours are stored.
   */
  async #writeAlone(batch: Waiting[]): Promise<void> {
    for (const each of batch)
      for (let tries = 1; ; tries++)
        try {
          await this.#write([each]);
          each.resolve();
          break;
        } catch (error) {
          if (isDatabaseAway(error)) {
            each.reject(error as Error);
            break;
          }
          if (tries < MOST_TRIES || lostToAnother(error)) continue;
          this.log.error(
            { line: each.line.id, error: (error as Error).message },
            'an event could not be stored and is put aside',
          );
          const { line, received } = each;
          const aside: Aside = {
            clientId: line.clientId,
            lineId: line.id,
            kind: 'not stored',
            reason: reasonOf(error),
            body: toJson(received),
          };
          await putAside(this.db, [aside], this.clock.now()).then(each.resolve, each.reject);
          break;
        }
  }

  async #write(batch: Waiting[]): Promise<void> {
    // The same event twice in one batch is one event.
    const fresh = new Map<string, Waiting>();
    for (const each of batch)
      if (!fresh.has(`${each.line.id}|${each.received.providerId}`))
        fresh.set(`${each.line.id}|${each.received.providerId}`, each);
    const events = [...fresh.values()];
    const conversationIds = await this.#conversationsOf(events);
    const now = this.clock.now();
    const readyAt = this.#gaps.readyTimes(
      events.map((each) => ({ lineId: each.line.id, place: each.received.place })),
      now,
    );
    const unsure = readyAt.some((at) => at > now);
    await this.db.query({
      name: unsure ? 'receive-after-gap' : 'receive',
      text: unsure ? RECEIVE_AFTER_GAP : RECEIVE,
      values: [
        events.map((each) => each.line.clientId),
        events.map((each) => each.line.id),
        events.map((each) => each.received.providerId),
        conversationIds,
        events.map(() => newId(now)),
        events.map((each) => new Date(happened(each.received.at, now))),
        events.map((each) => each.received.place),
        readyAt.map((at) => new Date(at)),
        events.map((each) =>
          toJson({
            incoming: each.received.incoming,
            words: each.received.words,
            profile: each.received.profile,
          }),
        ),
        new Date(now),
      ],
    });
    for (const each of events) this.#gaps.saw(each.line.id, each.received.place);
    const released = this.#gaps.closed();
    if (released.length > 0)
      await this.db.query(
        `
          update pending set ready_at = $1 from unnest($2::int[], $3::bigint[]) as gap (line_id, place)
          where pending.line_id = gap.line_id and pending.place = gap.place and ready_at > $1`,
        [new Date(now), released.map((each) => each.lineId), released.map((each) => each.place)],
      );
  }

  /**
   * The conversation of each event; made where there is none. Two processes that make it at once agree on
   * one.
   */
  async #conversationsOf(events: Waiting[]): Promise<string[]> {
    const key = (each: Waiting) => `${each.line.id}|${each.received.address}`;
    const unknown = [
      ...new Map(
        events.filter((each) => !this.#conversations.has(key(each))).map((each) => [key(each), each]),
      ).values(),
    ];
    if (unknown.length > 0) {
      if (this.#conversations.size > MOST_REMEMBERED) this.#conversations.clear();
      const now = this.clock.now();
      const clients = unknown.map((each) => each.line.clientId);
      const lines = unknown.map((each) => each.line.id);
      const addresses = unknown.map((each) => each.received.address);
      await this.db.query(
        `
          insert into conversation (client_id, id, line_id, address, last_at) select *
          from unnest($1::int[], $2::uuid[], $3::int[], $4::text[], $5::timestamptz[])
            on conflict (client_id, line_id, address) do nothing`,
        [clients, unknown.map(() => newId(now)), lines, addresses, unknown.map(() => new Date(now))],
      );
      // A second statement sees what another process committed meanwhile.
      const { rows } = await this.db.query<{ line_id: number; address: string; id: string }>(
        `
          select c.line_id, c.address, c.id from conversation c
          join unnest($1::int[], $2::int[], $3::text[]) as k (client_id, line_id, address)
            using (client_id, line_id, address)`,
        [clients, lines, addresses],
      );
      for (const row of rows) this.#conversations.set(`${row.line_id}|${row.address}`, row.id);
    }
    return events.map((each) => this.#conversations.get(key(each))!);
  }
}

/**
 * An event whose ids the database can compare: cleaned, and a long one of an event cut to what still tells it
 * apart. Null where its sender's is too long.
 */
function fitting(received: Received): Received | null {
  const address = cleanText(received.address);
  const providerId = cleanText(received.providerId);
  if (address === '' || address.length > LONGEST_ID) return null;
  const digest = () => createHash('sha256').update(providerId).digest('base64url');
  return {
    ...received,
    address,
    providerId: providerId.length > LONGEST_ID ? `${providerId.slice(0, 100)}…${digest()}` : providerId,
  };
}

const INCOMING = `
  with incoming as (
    select * from unnest($1::int[], $2::int[], $3::text[], $4::uuid[], $5::uuid[], $6::timestamptz[],
      $7::bigint[], $8::timestamptz[], $9::jsonb[])
      as t (client_id, line_id, provider_id, conversation_id, id, happened_at, place, ready_at, body)
  ), fresh as (
    insert into event_key (client_id, line_id, provider_id, received_at)
    select client_id, line_id, provider_id, $10 from incoming
    on conflict do nothing returning line_id, provider_id
  ), kept as (
    select incoming.* from incoming join fresh using (line_id, provider_id)
  ), stored as (
    insert into event (client_id, id, line_id, conversation_id, provider_id, happened_at, body)
    select client_id, id, line_id, conversation_id, provider_id, happened_at, body from kept
  )
  insert into pending (client_id, line_id, conversation_id, event_id, place, happened_at, body, ready_at)
  select client_id, line_id, conversation_id, id, place, happened_at, body,`;
const RECEIVE = `${INCOMING} ready_at from kept order by id`;
/**
 * Another process may have stored the event before: then nothing needs to wait. The line's very first event
 * has none before it.
 */
const RECEIVE_AFTER_GAP = `${INCOMING}
  case when place is null
    or exists (select from event_key k where k.client_id = kept.client_id and k.line_id = kept.line_id
      and k.provider_id = (kept.place - 1)::text)
    or not exists (select from event_key k where k.client_id = kept.client_id and k.line_id = kept.line_id)
  then $10 else ready_at end from kept order by id`;

/**
 * Platforms that count their events on a line may deliver them out of order. An event whose predecessor has
 * not been seen waits a moment for it; this remembers what was seen.
 */
class Gaps {
  #lines = new Map<number, { upTo: number; beyond: Set<number>; held: Set<number> }>();
  #closed: { lineId: number; place: number }[] = [];

  readyTimes(events: { lineId: number; place: number | null }[], now: number): number[] {
    const together = new Map<number, Set<number>>();
    for (const { lineId, place } of events)
      if (place !== null) {
        const set = together.get(lineId) ?? new Set();
        together.set(lineId, set.add(place));
      }
    return events.map(({ lineId, place }) => {
      if (place === null) return now;
      const seen = this.#lines.get(lineId);
      const before = place - 1;
      if (seen && (before <= seen.upTo || seen.beyond.has(before))) return now;
      if (together.get(lineId)!.has(before)) return now;
      this.#of(lineId, before - 1).held.add(place);
      return now + PATIENCE_FOR_GAP_MS;
    });
  }

  saw(lineId: number, place: number | null): void {
    if (place === null) return;
    const line = this.#of(lineId, place - 1);
    if (line.held.delete(place + 1)) this.#closed.push({ lineId, place: place + 1 });
    if (place <= line.upTo) return;
    line.beyond.add(place);
    while (line.beyond.delete(line.upTo + 1)) line.upTo++;
    // A gap that never closes must not be remembered for ever.
    if (line.beyond.size > 1_000) {
      line.upTo = Math.max(...line.beyond);
      line.beyond.clear();
      line.held.clear();
    }
  }

  /** Events that waited for one that has come; each is told once. */
  closed(): { lineId: number; place: number }[] {
    return this.#closed.splice(0);
  }

  #of(lineId: number, upTo: number) {
    let line = this.#lines.get(lineId);
    if (!line) this.#lines.set(lineId, (line = { upTo, beyond: new Set(), held: new Set() }));
    return line;
  }
}
