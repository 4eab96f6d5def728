import type { Logger } from 'pino';
import type { Adapters } from '../channels';
import type { AsideKind, HookReading, OpenLine, Received } from '../channels/adapter';
import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';
import type { Leads } from './leads';
import type { Lines } from '../lines/lines';
import { growingPause } from '../platform/jobs/pace';
import type { Receiver } from './receive';
import { NO_ANSWERS, reasonOf } from './setAside';

/** Answers of a lead form are asked for so often by ourselves: some two days. */
const MOST_ASKED = 14;
const MINUTE = 60_000;
const LEASE_MS = 5 * MINUTE;
const AT_ONCE = 50;

interface Row {
  client_id: number;
  id: number;
  line_id: number;
  kind: AsideKind;
  body: string;
  tries: number;
}

/** Why something still lies aside. `mayCome`: what is missing may be there later; it is asked for again. */
interface Still {
  reason: string;
  mayCome?: boolean;
}

/** Tries again what is due: at a press, or by itself where that may help. What succeeds is gone from here. */
export class AsideAgain {
  constructor(
    private readonly db: Db,
    private readonly parts: {
      clock: Clock;
      log: Logger;
      lines: Lines;
      leads: Leads;
      receiver: Receiver;
      adapters: Adapters;
      /** Stores what a request says, as the webhook does. */
      store: (line: OpenLine, reading: HookReading) => Promise<void>;
      chance: () => number;
      wake: () => void;
      tell: (clientIds: number[]) => void;
    },
  ) {}

  /** Returns how many were tried. */
  async run(): Promise<number> {
    const { clock, log, tell } = this.parts;
    const now = clock.now();
    const { rows } = await this.db.query<Row>(
      `
       update aside set again_at = $2 where (client_id, id) in (
         select client_id, id from aside where again_at <= $1 order by again_at limit ${AT_ONCE}
         for update skip locked)
       returning client_id, id, line_id, kind, body, tries`,
      [new Date(now), new Date(now + LEASE_MS)],
    );
    for (const row of rows) {
      let still: Still | null;
      try {
        still = await this.#try(row);
      } catch (error) {
        log.error(
          { aside: row.id, error: (error as Error).message },
          'what lies aside could not be tried again',
        );
        still = { reason: reasonOf(error) };
      }
      if (still === null)
        await this.db.query('delete from aside where client_id = $1 and id = $2', [row.client_id, row.id]);
      else await this.#keep(row, still);
    }
    if (rows.length > 0) {
      this.parts.wake();
      tell([...new Set(rows.map((row) => row.client_id))]);
    }
    return rows.length;
  }

  async #keep(row: Row, { reason, mayCome = false }: Still): Promise<void> {
    const { clock, chance } = this.parts;
    const again =
      mayCome && row.tries < MOST_ASKED ? new Date(clock.now() + askAgainMs(row.tries + 1, chance())) : null;
    await this.db.query(
      'update aside set tries = tries + 1, reason = $3, again_at = $4 where client_id = $1 and id = $2',
      [row.client_id, row.id, reason.slice(0, 500), again],
    );
  }

  /** Null when it was processed, or why it still lies aside. */
  async #try(row: Row): Promise<Still | null> {
    const { clock, lines, adapters, receiver, leads, store } = this.parts;
    if (row.kind === 'not decided') {
      await this.db.query(
        `
         insert into pending (client_id, line_id, conversation_id, event_id, place, ready_at, happened_at,
           body)
         select $1, line_id, conversation_id, event_id, null, $3, happened_at, body
         from jsonb_to_record($2::jsonb) as t (line_id int, conversation_id uuid, event_id uuid,
           happened_at timestamptz, body jsonb)
         where exists (select from conversation c where c.client_id = $1 and c.id = t.conversation_id)`,
        [row.client_id, row.body, new Date(clock.now())],
      );
      return null;
    }
    const line = await lines.byId(row.line_id);
    if (!line) return { reason: 'its line is not connected any more' };
    const adapter = adapters.of(line);
    switch (row.kind) {
      case 'not understood': {
        const reading = adapter.read({ header: () => undefined, body: Buffer.from(row.body) }, line);
        if (reading.aside.length > 0) return { reason: reading.aside[0]!.reason };
        if (
          reading.received.length + (reading.leads ?? []).length + (reading.statuses ?? []).length === 0 &&
          !reading.templatesChanged
        )
          return { reason: 'nothing in it is for this line' };
        await store(line, reading);
        return null;
      }
      case 'not stored':
        await receiver.store(line, { received: [JSON.parse(row.body) as Received], aside: [] });
        return null;
      case 'lead form': {
        const met = await leads.meet(JSON.parse(row.body) as Parameters<Leads['meet']>[0], line, adapter);
        if (met === null) return { reason: NO_ANSWERS, mayCome: true };
        if (met.reading.aside[0]) return { reason: met.reading.aside[0].reason };
        await receiver.store(met.line, met.reading);
        return null;
      }
    }
  }
}

/** Answers of a lead form are asked for again after a minute, two, four … six hours. */
const askAgainMs = (tries: number, chance: number) =>
  Math.min(6 * 60 * MINUTE, 60 * growingPause(Math.max(1, tries - 1), chance));
