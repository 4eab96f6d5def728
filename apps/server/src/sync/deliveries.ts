import type { Logger } from 'pino';
import { isInSegment, type ClientFacts } from '@dart-loop/core';
import type { SyncedPerson } from '@dart-loop/core/sync/mapping';
import type { Parcel } from '@dart-loop/core/sync/kinds/kind';
import type { FileSettings } from '@dart-loop/core/sync/kinds/file';
import { arrived, saysMore, type StandsThere } from '@dart-loop/core/sync/settle';
import type { Clock } from '../platform/clock';
import { asText, toJson } from '../platform/db/json';
import type { Keyring } from '../platform/keyring';
import { inTransaction, isDatabaseAway, passesByItself, type Db } from '../platform/db/pool';
import { clientFacts, readPeople } from '../people/facts';
import { askedOf } from '../people/select';
import { faultPoint } from '../platform/fault';
import { growingPause } from '../platform/jobs/pace';
import { exchange, wordsOf, type CallMade, type Outcome } from './exchange';
import { parcelOf } from './parcel';
import { putFile } from './wholeFile';
import { HEARS, accessTo, isWhole, type StoredDestination } from './stored';

/** Deliveries under way to one destination at once, and in this process altogether. */
const MOST_EACH = 8;
const MOST_AT_ONCE = 48;
/** A delivery that was taken is another's again after so long: its taker has died. */
const LEASE_MS = 90_000;
/** One of a whole file, which takes longer. */
const FILE_LEASE_MS = 1_800_000;
/** Rows of tries that nobody knows the end of. */
const MOST_UNDER_WAY = 4;
/** Tries of a delivery that fails by a fault of ours. */
const MOST_FAULTS = 5;
/** From so many fails in a row on, only one is tried at a time, after growing pauses. */
const BREAKS_AT = 5;
const LONGEST_BREAK_MS = 300_000;
/** For so long it is tried again while the other side is not well; then it goes on the shelf. */
const GIVES_UP_MS = 3 * 24 * 3_600_000;

interface DeliveryRow {
  client_id: number;
  id: string;
  destination_id: string;
  /** Null: a file of everybody. */
  person_id: string | null;
  attempts: number;
  cells: Parcel['row']['cells'] | null;
  causes: string[];
  made_at: Date;
  their_id: string | null;
  stands: StandsThere | null;
}
/** `hears`: it tells us of its changes as well. */
type Due = StoredDestination & { hears: boolean };

/**
 * Brings what has changed to the clients' own systems: a person's deliveries to a destination one after the
 * other, persons beside each other. What is taken is tried, marked, and tried again after growing pauses with
 * the same id and the same row; a destination that fails again and again rests meanwhile.
 */
export class Deliveries {
  #running = new Map<string, number>();
  #stopped = false;
  #looking: Promise<void> | null = null;
  #again = false;
  constructor(
    private readonly db: Db,
    private readonly options: {
      clock: Clock;
      log: Logger;
      keys: Keyring;
      standins: string | null;
      /** The folder for files, if there is one. */
      files: string | null;
      chance: () => number;
      tell: (clientIds: number[]) => void;
    },
  ) {}

  get busy(): boolean {
    return this.#running.size > 0;
  }

  /** Takes what is due; resolves once it is taken, not once it is done. */
  wake(): Promise<void> {
    this.#again = true;
    this.#looking ??= this.#look().finally(() => (this.#looking = null));
    return this.#looking;
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    const start = Date.now();
    while (this.busy && Date.now() - start < 5_000) await new Promise((resolve) => setTimeout(resolve, 20));
  }

  async #look(): Promise<void> {
    while (this.#again && !this.#stopped) {
      this.#again = false;
      const now = new Date(this.options.clock.now());
      const { rows } = await this.db.query<Due>({
        name: 'due-destinations',
        text: `
               select d.*, ${HEARS} from destination d
               where state = 'on' and (resume_at is null or resume_at <= $1)
               and exists (select from delivery w where w.client_id = d.client_id and w.destination_id = d.id
                 and w.status = 'waiting' and w.due_at <= $1)`,
        values: [now],
      });
      for (const destination of rows)
        await this.#takeFor(destination, now).catch((error: Error) => {
          if (isDatabaseAway(error)) throw error;
          // That of others is delivered all the same; what was taken here is taken again when its time is
          // over.
          this.options.log.error(
            { destination: destination.id, error: error.message },
            'deliveries of a destination could not be taken',
          );
        });
    }
  }

  async #takeFor(destination: Due, now: Date): Promise<void> {
    const { client_id, id } = destination;
    const all = [...this.#running.values()].reduce((sum, each) => sum + each, 0);
    const most = Math.min(
      destination.fails >= BREAKS_AT ? 1 : MOST_EACH,
      MOST_AT_ONCE - all + (this.#running.get(id) ?? 0),
    );
    const free = most - (this.#running.get(id) ?? 0);
    if (free <= 0) return;
    const { rows } = await this.db.query<DeliveryRow>({
      name: 'take-deliveries',
      text: `
             with taken as (
               update delivery set taken_until = $4 where (client_id, id) in (
                 select client_id, id from delivery d
                 where client_id = $1 and destination_id = $2 and status = 'waiting' and due_at <= $3
                   and (taken_until is null or taken_until <= $3)
                   and not exists (select from delivery e where e.client_id = $1 and e.destination_id = $2
                     and e.person_id = d.person_id and e.status = 'waiting' and e.n < d.n)
                 order by due_at limit $5 for update skip locked)
               returning client_id, id, destination_id, person_id, attempts, causes, cells, made_at)
             select t.*, c.their_id, s.columns as stands from taken t
             left join counterpart c on c.client_id = t.client_id and c.destination_id = t.destination_id
               and c.person_id = t.person_id
             left join stands_there s on s.client_id = t.client_id and s.destination_id = t.destination_id
               and s.person_id = t.person_id`,
      values: [
        client_id,
        id,
        now,
        new Date(now.getTime() + (isWhole(destination) ? FILE_LEASE_MS : LEASE_MS)),
        free,
      ],
    });
    if (rows.length === 0) return;
    const client = await clientFacts(this.db, client_id);
    const people = await readPeople(
      this.db,
      client_id,
      rows.flatMap((row) => row.person_id ?? []),
    );
    const { who } = destination;
    const asked = who && (await askedOf(this.db, client_id, now.getTime()));
    this.#running.set(id, (this.#running.get(id) ?? 0) + rows.length);
    for (const row of rows) {
      if (row.person_id === null) {
        void this.#settle(destination, row, this.#deliverFile(destination, client, row));
        continue;
      }
      const person = people.find((each) => each.id === row.person_id);
      // One who has been on their way before is for whom it was then.
      const isFor =
        person !== undefined && (!who || row.cells !== null || isInSegment(who, { ...asked!, person }));
      void this.#settle(
        destination,
        row,
        this.#deliver(destination, client, row, person, isFor, now.getTime()),
      );
    }
  }

  /** When it is over its place is free, and the next are looked for. */
  async #settle({ id }: Due, row: DeliveryRow, work: Promise<void>): Promise<void> {
    const { log } = this.options;
    await work
      .catch((error: Error) => {
        log.error({ delivery: row.id, error: error.message }, 'a delivery failed by a fault of ours');
        if (passesByItself(error)) return;
        return this.#countFault(row);
      })
      .catch((error: Error) =>
        log.error({ delivery: row.id, error: error.message }, 'a delivery could not be marked'),
      );
    const left = this.#running.get(id)! - 1;
    if (left > 0) this.#running.set(id, left);
    else this.#running.delete(id);
    if (!this.#stopped)
      await this.wake().catch((error: Error) =>
        log.error({ error: error.message }, 'deliveries could not be taken'),
      );
  }

  /**
   * A fault of ours counts as a try; after some it goes on the shelf, so that what comes after it for the
   * person is not held up for ever.
   */
  async #countFault(row: DeliveryRow): Promise<void> {
    const { clock, chance, tell } = this.options;
    const now = clock.now();
    const attempts = row.attempts + 1;
    const isOver = attempts >= MOST_FAULTS;
    const words = 'the program met a fault of its own when it delivered this';
    await this.db.query(
      `
       update delivery set attempts = $3, taken_until = null, due_at = $4, outcome = $5, status = case
         when $6 then 'shelf' else 'waiting' end, ended_at = case when $6 then $7::timestamptz end
       where client_id = $1 and id = $2 and status = 'waiting'`,
      [
        row.client_id,
        row.id,
        attempts,
        new Date(now + growingPause(attempts, chance())),
        words,
        isOver,
        new Date(now),
      ],
    );
    tell([row.client_id]);
  }

  async #deliverFile(destination: Due, client: ClientFacts, row: DeliveryRow): Promise<void> {
    const { files } = this.options;
    const { name, mapping, who, settings, client_id: clientId } = destination;
    const { rows } = await this.db.query<{ slug: string }>('select slug from client where id = $1', [
      clientId,
    ]);
    const began = performance.now();
    const access = { ...(await accessTo(destination, this.options)), files };
    const { outcome, calls } = await putFile(this.db, access, {
      clientId,
      slug: rows[0]!.slug,
      client,
      name,
      settings: settings as FileSettings,
      mapping,
      who,
      id: row.id,
    });
    await this.#mark(destination, row, null, outcome, calls, Math.round(performance.now() - began));
  }

  /** `isFor`: whether the person is one of those it is for. `since`: when they were read, in ms. */
  async #deliver(
    destination: Due,
    client: ClientFacts,
    row: DeliveryRow,
    person: SyncedPerson | undefined,
    isFor: boolean,
    since: number,
  ): Promise<void> {
    // Erased meanwhile, and the delivery with them.
    if (!person) return;
    const { clock } = this.options;
    const parcel = parcelOf(destination, person, client, {
      id: row.id,
      at: row.made_at.getTime(),
      now: clock.now(),
      theirId: row.their_id,
      cells: row.cells,
    });
    if (!isFor) {
      await this.#mark(
        destination,
        row,
        parcel,
        { kind: 'left out', reason: 'not one of those it is for' },
        [],
        0,
      );
      return;
    }
    if (destination.hears) {
      // What they have told us already, or have from us, is not told to them again: two systems that hear
      // each other would never be still.
      if (!row.causes.includes('by hand') && row.stands && !saysMore(parcel.row.cells, row.stands)) {
        await this.#mark(
          destination,
          row,
          parcel,
          { kind: 'left out', reason: 'it stands there already' },
          [],
          0,
        );
        return;
      }
      // Known to be on its way before it goes, so that it is not taken for news when it comes back.
      await this.#noteUnderWay(destination, row, parcel);
    }
    const began = performance.now();
    const { outcome, calls } = await exchange(await accessTo(destination, this.options), destination, parcel);
    faultPoint(11);
    // Of a try that is to be made again nobody knows whether it arrived.
    if (destination.hears && outcome.kind !== 'again')
      await this.#noteEnded(destination, row, parcel, outcome.kind === 'done', since);
    const ms = Math.round(performance.now() - began);
    await this.#mark(destination, row, parcel, outcome, calls, ms).catch((error: unknown) => {
      if (passesByItself(error)) throw error;
      // What was answered cannot be kept as it is: it is kept as text.
      const texts = calls.map((call) => ({
        ...call,
        request: { ...call.request, body: asText(call.request.body) },
        answer: 'silence' in call.answer ? call.answer : { ...call.answer, body: asText(call.answer.body) },
      }));
      return this.#mark(destination, row, parcel, outcome, texts, ms);
    });
  }

  /** The row stays with the delivery: unless something is changed meanwhile, every try sends the same. */
  #noteUnderWay({ id }: Due, row: DeliveryRow, { row: { cells } }: Parcel): Promise<void> {
    const values = [row.client_id, id, row.person_id, toJson(cells)];
    return inTransaction(this.db, async (db) => {
      await db.query(
        `
         insert into stands_there (client_id, destination_id, person_id, under_way)
         select client_id, $2, id, jsonb_build_array($4::jsonb) from person where client_id = $1 and id = $3
         on conflict (client_id, destination_id, person_id) do update set under_way =
           case when jsonb_array_length(stands_there.under_way) < ${MOST_UNDER_WAY} then
             stands_there.under_way else stands_there.under_way - 0 end || excluded.under_way`,
        values,
      );
      await db.query(
        "update delivery set cells = $2 where client_id = $1 and id = $3 and status = 'waiting'",
        [row.client_id, values[3], row.id],
      );
    });
  }

  /**
   * Keeps what stands over there now. A crash between this and the mark sends the same once more, which is no
   * news to anybody.
   */
  async #noteEnded(
    { id }: Due,
    row: DeliveryRow,
    { row: { cells } }: Parcel,
    isThere: boolean,
    since: number,
  ): Promise<void> {
    await inTransaction(this.db, async (db) => {
      const key = [row.client_id, id, row.person_id];
      const { rows } = await db.query<{ columns: StandsThere; under_way: Parcel['row']['cells'][] }>(
        `
          select columns, under_way from stands_there where client_id = $1 and destination_id = $2
            and person_id = $3 for update`,
        key,
      );
      if (!rows[0]) return;
      const { columns, under_way } = rows[0];
      const stands = isThere
        ? arrived(columns, cells, since, this.options.clock.now(), under_way.slice(0, -1))
        : columns;
      await db.query(
        `
          update stands_there set columns = $4, under_way = '[]'
          where client_id = $1 and destination_id = $2 and person_id = $3`,
        [...key, toJson(stands)],
      );
    });
  }

  async #mark(
    { id: destinationId, fails, hears }: Due,
    row: DeliveryRow,
    /** Null for a file, which is made anew with every try. */
    parcel: Parcel | null,
    outcome: Outcome,
    calls: CallMade[],
    ms: number,
  ): Promise<void> {
    const { clock, chance, log, tell } = this.options;
    const now = clock.now();
    const attempts = row.attempts + (outcome.kind === 'left out' ? 0 : 1);
    const givenUp = outcome.kind === 'again' && now - row.made_at.getTime() > GIVES_UP_MS;
    const waits = (outcome.kind === 'again' && !givenUp) || outcome.kind === 'locked';
    const status =
      outcome.kind === 'done'
        ? 'done'
        : outcome.kind === 'left out'
          ? 'left out'
          : waits
            ? 'waiting'
            : 'shelf';
    const words =
      outcome.kind === 'done'
        ? parcel
          ? wordsOf(outcome, parcel)
          : outcome.words
        : givenUp
          ? `given up after ${attempts} tries: ${outcome.reason}`
          : outcome.reason;
    const afterMs =
      outcome.kind === 'again' ? Math.max(outcome.afterMs ?? 0, growingPause(attempts, chance())) : 0;
    const rest = restOf(outcome, fails + 1, chance());
    await this.db.query({
      name: 'mark-delivery',
      text: `
             with marked as (
               update delivery set status = $3, attempts = $4, due_at = $5, taken_until = null, cells = case
                 when $18 and $3 = 'waiting' then coalesce(cells, $6) else $6 end, outcome = $7, ended_at =
                 case when $3 = 'waiting' then null else $8::timestamptz end
               where client_id = $1 and id = $2 and status = 'waiting'
               returning client_id, id, destination_id, person_id
             ), tried as (
               insert into attempt (client_id, delivery_id, n, at, ms, ok, reason, calls)
               select client_id, id, $4, $8, $9, $10, $7, $11 from marked where $4 > $12
               on conflict do nothing
             ), named as (
               insert into counterpart (client_id, destination_id, person_id, their_id)
               select client_id, destination_id, person_id, $13 from marked where $13::text is not null
               on conflict (client_id, destination_id, person_id) do update set their_id = excluded.their_id
             )
             update destination set
               fails = case when $10 then 0 when $14 then greatest(fails + 1, $15) else fails end,
               resume_at = case when $10 then null
                 when $16::timestamptz is not null then greatest(resume_at, $16) else resume_at end,
               failing_since = case when $10 then null when $14 then coalesce(failing_since, $8)
                 else failing_since end,
               failure = case when $10 then null when $14 then $7 else failure end,
               last_ok_at = case when $10 then $8 else last_ok_at end
             where client_id = $1 and id = $17
               and (($10
               and (fails > 0 or last_ok_at is null or last_ok_at < $8::timestamptz - interval '10 seconds'))
               or $14)`,
      values: [
        row.client_id,
        row.id,
        status,
        attempts,
        new Date(now + afterMs),
        outcome.kind === 'left out' || !parcel ? null : toJson(parcel.row.cells),
        words,
        new Date(now),
        ms,
        outcome.kind === 'done',
        toJson(calls),
        row.attempts,
        outcome.kind === 'done' ? outcome.theirId : null,
        outcome.kind === 'again' || outcome.kind === 'locked',
        outcome.kind === 'locked' ? BREAKS_AT : 0,
        rest > 0 ? new Date(now + rest) : null,
        destinationId,
        hears,
      ],
    });
    if (outcome.kind !== 'done' && outcome.kind !== 'left out')
      log.warn({ delivery: row.id, status, attempts, reason: outcome.reason }, 'a delivery did not succeed');
    tell([row.client_id]);
  }
}

/**
 * How long the whole destination rests after the last of so many fails in a row, in ms; one that does not let
 * us in is not knocked at again and again.
 */
function restOf(outcome: Outcome, fails: number, chance: number): number {
  if (outcome.kind === 'locked') return LONGEST_BREAK_MS;
  if (outcome.kind !== 'again') return 0;
  const own =
    fails >= BREAKS_AT ? Math.min(growingPause(fails - BREAKS_AT + 3, chance), LONGEST_BREAK_MS) : 0;
  return Math.max(own, outcome.afterMs ?? 0);
}
