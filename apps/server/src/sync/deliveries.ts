import type { Logger } from 'pino';
import { isInSegment, type ClientFacts } from '@dart-loop/core';
import type { SyncedPerson } from '@dart-loop/core/sync/mapping';
import type { Parcel } from '@dart-loop/core/sync/kinds/kind';
import type { FileSettings } from '@dart-loop/core/sync/kinds/file';
import { saysMore } from '@dart-loop/core/sync/settle';
import type { Clock } from '../platform/clock';
import { asText } from '../platform/db/json';
import type { Keyring } from '../platform/keyring';
import { isDatabaseAway, passesByItself, type Db } from '../platform/db/pool';
import { clientFacts, readPeople } from '../people/facts';
import { askedOf } from '../people/select';
import { faultPoint } from '../platform/fault';
import { growingPause } from '../platform/jobs/pace';
import { Taking } from '../platform/jobs/taking';
import { exchange, type CallMade, type Outcome } from './exchange';
import { parcelOf } from './parcel';
import { BREAKS_AT, markDelivery, noteEnded, noteUnderWay, type DeliveryRow, type Due } from './deliveryRows';
import { putFile } from './wholeFile';
import { HEARS, accessTo, isWhole } from './stored';

/** Deliveries under way to one destination at once, and in this process altogether. */
const MOST_EACH = 8;
const MOST_AT_ONCE = 48;
/** A delivery that was taken is another's again after so long: its taker has died. */
const LEASE_MS = 90_000;
/** One of a whole file, which takes longer. */
const FILE_LEASE_MS = 1_800_000;
/** Tries of a delivery that fails by a fault of ours. */
const MOST_FAULTS = 5;
/**
 * Brings what has changed to the clients' own systems: a person's deliveries to a destination one after the
 * other, persons beside each other. What is taken is tried, marked, and tried again after growing pauses with
 * the same id and the same row; a destination that fails again and again rests meanwhile.
 */
export class Deliveries {
  readonly #taking: Taking;
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
  ) {
    this.#taking = new Taking(() => this.#look(), options.log, 'deliveries could not be taken');
  }

  /** Takes what is due; resolves once it is taken, not once it is done. */
  wake(): Promise<void> {
    return this.#taking.wake();
  }

  wakeAndGoOn(): void {
    this.#taking.wakeAndGoOn();
  }

  stop(): Promise<void> {
    return this.#taking.stop();
  }

  async #look(): Promise<void> {
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

  async #takeFor(destination: Due, now: Date): Promise<void> {
    const { client_id, id } = destination;
    const underWay = this.#taking.of(id);
    const free = Math.min(
      (destination.fails >= BREAKS_AT ? 1 : MOST_EACH) - underWay,
      MOST_AT_ONCE - this.#taking.size,
    );
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
    for (const row of rows) {
      if (row.person_id === null) {
        this.#taking.begin(id, this.#settled(row, this.#deliverFile(destination, client, row)));
        continue;
      }
      const person = people.find((each) => each.id === row.person_id);
      // One who has been on their way before is for whom it was then.
      const isFor =
        person !== undefined && (!who || row.cells !== null || isInSegment(who, { ...asked!, person }));
      this.#taking.begin(
        id,
        this.#settled(row, this.#deliver(destination, client, row, person, isFor, now.getTime())),
      );
    }
  }

  /** Never throws. */
  #settled(row: DeliveryRow, work: Promise<void>): Promise<void> {
    const { log } = this.options;
    return work
      .catch((error: Error) => {
        log.error({ delivery: row.id, error: error.message }, 'a delivery failed by a fault of ours');
        if (passesByItself(error)) return;
        return this.#countFault(row);
      })
      .catch((error: Error) =>
        log.error({ delivery: row.id, error: error.message }, 'a delivery could not be marked'),
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
      await noteUnderWay(this.db, destination, row, parcel);
    }
    const began = performance.now();
    const { outcome, calls } = await exchange(await accessTo(destination, this.options), destination, parcel);
    faultPoint(11);
    // Of a try that is to be made again nobody knows whether it arrived.
    if (destination.hears && outcome.kind !== 'again')
      await noteEnded(this.db, destination, row, parcel, outcome.kind === 'done', since, clock.now());
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

  async #mark(
    destination: Due,
    row: DeliveryRow,
    parcel: Parcel | null,
    outcome: Outcome,
    calls: CallMade[],
    ms: number,
  ): Promise<void> {
    const { clock, chance, log, tell } = this.options;
    const { status, attempts } = await markDelivery(this.db, destination, row, parcel, outcome, calls, ms, {
      now: clock.now(),
      chance: chance(),
    });
    if (outcome.kind !== 'done' && outcome.kind !== 'left out')
      log.warn({ delivery: row.id, status, attempts, reason: outcome.reason }, 'a delivery did not succeed');
    tell([row.client_id]);
  }
}
