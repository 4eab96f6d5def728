import type { Logger } from 'pino';
import type { Run } from '@dart-loop/core';
import { BookingsAhead } from '../bookings/calendars';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import {
  inTransactionAgain,
  isDatabaseAway,
  lostToAnother,
  type Connection,
  type Db,
} from '../platform/db/pool';
import { newId } from '../platform/ids';
import { applyChanges } from './apply';
import { noChanges, type Changes } from './changes';
import type { Claimed } from './claimed';
import { converse, type Talking } from './converse';
import { PublicReplies, type CommentedPost } from './publicReplies';
import { faultPoint } from '../platform/fault';
import { PublishedLoops } from '../loops/liveLoops';
import { putAside, reasonOf } from './setAside';
import { CLAIM_ALONE, PendingRow, EVENTS, CLAIM, Standing, STANDINGS } from './laneSql';

/** Tries of one event that fails alone. */
const MOST_TRIES = 3;

/** What a finished batch touched, for waking the sender and the open screens. */
export interface BatchDone {
  events: number;
  messages: number;
  errands: number;
  clientIds: number[];
}

/**
 * Takes the events of each conversation strictly in order, many conversations at a time, and writes all that
 * an event does in one transaction. A crash before the commit leaves no trace; after it, nothing is repeated.
 */
export class Lane {
  readonly #loops = new PublishedLoops();
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly log: Logger,
  ) {}

  /**
   * One batch. Returns null when there was nothing to do. What fails in company is taken conversation by
   * conversation, then event by event; an event that fails alone is set aside with its reason, and all else
   * goes on.
   */
  async runBatch(): Promise<BatchDone | null> {
    const claimed: string[] = [];
    try {
      return await this.#batch({ claimed });
    } catch (error) {
      if (isDatabaseAway(error) || claimed.length === 0) throw error;
      this.log.warn(
        { conversations: claimed.length, error: (error as Error).message },
        'a batch failed; its conversations are taken one by one',
      );
      return this.#oneByOne(claimed);
    }
  }

  async #oneByOne(conversationIds: readonly string[]): Promise<BatchDone> {
    const all: BatchDone = { events: 0, messages: 0, errands: 0, clientIds: [] };
    const add = (done: BatchDone | null) => {
      if (!done) return;
      all.events += done.events;
      all.messages += done.messages;
      all.errands += done.errands;
      all.clientIds = [...new Set([...all.clientIds, ...done.clientIds])];
    };
    for (const only of conversationIds)
      try {
        add(await this.#batch({ only }));
      } catch (error) {
        if (isDatabaseAway(error)) throw error;
        for (let done = await this.#oneEvent(only); done; done = await this.#oneEvent(only)) add(done);
      }
    return all;
  }

  /**
   * The next event of a conversation, alone; set aside where it fails each time. Null when none is left that
   * is due.
   */
  async #oneEvent(conversationId: string): Promise<BatchDone | null> {
    for (let tries = 1; ; tries++)
      try {
        return await this.#batch({ only: conversationId, most: 1 });
      } catch (error) {
        if (isDatabaseAway(error)) throw error;
        if (tries < MOST_TRIES || lostToAnother(error)) continue;
        return this.#setAside(conversationId, error);
      }
  }

  /**
   * Moves the first event of a conversation out of its way, and says so in the conversation, which waits for
   * a person now.
   */
  #setAside(conversationId: string, error: unknown): Promise<BatchDone | null> {
    return inTransactionAgain(this.db, async (db) => {
      const now = this.clock.now();
      const { rows: claimed } = await db.query<Claimed>({
        name: 'claim-alone',
        text: CLAIM_ALONE,
        values: [new Date(now), conversationId],
      });
      const { rows: events } = await db.query<PendingRow>({
        name: 'events',
        text: EVENTS,
        values: [[conversationId], new Date(now)],
      });
      const conversation = claimed[0];
      const event = events[0];
      if (!conversation || !event?.ready) return null;
      const { client_id, line_id } = conversation;
      const reason = reasonOf(error);
      const { rows: gone } = await db.query<{ event_id: string | null; happened_at: Date; body: object }>(
        'delete from pending where id = $1 returning event_id, happened_at, body',
        [event.id],
      );
      this.log.error(
        { conversation: conversationId, event: event.event_id, error: (error as Error).stack },
        'an event could not be decided and is set aside',
      );
      const body = toJson({ line_id, conversation_id: conversationId, ...gone[0]! });
      await putAside(
        db,
        [{ clientId: client_id, lineId: line_id, conversationId, kind: 'not decided', reason, body }],
        now,
      );
      await db.query(
        `
          insert into decision (client_id, id, conversation_id, event_id, seq, happened_at, candidates,
            notes) values ($1, $2, $3, $4, $5, $6, null, $7)`,
        [
          client_id,
          newId(now),
          conversationId,
          event.event_id,
          conversation.seq + 1,
          new Date(now),
          toJson([{ code: 'set aside', reason }]),
        ],
      );
      await db.query(
        `
          update conversation
          set seq = seq + 1, shelf = 'waiting on us', waiting_since = coalesce(waiting_since, $3),
            last_at = $3 where client_id = $1 and id = $2`,
        [client_id, conversationId, new Date(now)],
      );
      return { events: 1, messages: 0, errands: 0, clientIds: [client_id] };
    });
  }

  /**
   * `only`: one conversation, and `most` so many of its events. `claimed` hears which conversations were
   * taken.
   */
  async #batch({
    only,
    most,
    claimed: taken,
  }: {
    only?: string;
    most?: number;
    claimed?: string[];
  }): Promise<BatchDone | null> {
    const db = await this.db.connect();
    let broken: Error | undefined;
    try {
      const now = this.clock.now();
      // Handed over together: the connection takes them in order, and nothing waits for the answer to
      // `begin`.
      const [, { rows: claimed }] = await Promise.all([
        db.query('begin'),
        db.query<Claimed>(
          only === undefined
            ? { name: 'claim', text: CLAIM, values: [new Date(now)] }
            : { name: 'claim-alone', text: CLAIM_ALONE, values: [new Date(now), only] },
        ),
      ]);
      if (claimed.length === 0) {
        await db.query('rollback');
        return null;
      }
      faultPoint(3);
      const ids = claimed.map((each) => each.id);
      taken?.push(...ids);
      const [{ rows: events }, { rows: standings }] = await Promise.all([
        db.query<PendingRow>({ name: 'events', text: EVENTS, values: [ids, new Date(now)] }),
        db.query<Standing>({
          name: 'standings',
          text: STANDINGS,
          values: [[...new Set(claimed.map((each) => each.client_id))], ids],
        }),
      ]);
      if (most !== undefined) events.splice(most);
      const tapped = await this.#load(db, claimed, events, standings);
      const bookings = new BookingsAhead();
      await bookings.load(
        db,
        new Map(claimed.map(({ client_id }) => [client_id, this.#loops.client(client_id).calendars])),
        standings.flatMap(({ known_person_id }) => known_person_id ?? []),
        now,
      );
      const publicReplies = new PublicReplies();
      await publicReplies.load(db, commentedIn(claimed, events));
      const ahead = { bookings, publicReplies };
      const changes = this.#answer(claimed, events, standings, tapped, ahead, now);
      if (only !== undefined && changes.done.length === 0) {
        // What comes next waits for its predecessor.
        await db.query('rollback');
        return null;
      }
      faultPoint(4);
      await applyChanges(db, changes);
      faultPoint(5);
      const committed = await db.query('commit');
      if (committed.command !== 'COMMIT') throw new Error('the database rolled the batch back at its commit');
      faultPoint(6);
      return {
        events: changes.done.length,
        messages: changes.messages.length,
        errands: changes.errands.length,
        clientIds: [...new Set(claimed.map((each) => each.client_id))],
      };
    } catch (error) {
      await db.query('rollback').catch((second: Error) => (broken = second));
      throw error;
    } finally {
      db.release(broken);
    }
  }

  /**
   * Loads what the answers will look at: published cues, versions that runs stand on or are moved to, runs
   * that late taps belong to.
   */
  async #load(
    db: Connection,
    claimed: Claimed[],
    events: PendingRow[],
    standings: Standing[],
  ): Promise<Map<string, Run>> {
    const clientOf = new Map(claimed.map((each) => [each.id, each.client_id]));
    await this.#loops.loadClients(
      db,
      new Map(standings.map((each) => [clientOf.get(each.conversation_id)!, each.cue_revision])),
    );
    const wanted = standings.flatMap(({ conversation_id, runs }) =>
      runs.map((run) => ({
        clientId: clientOf.get(conversation_id)!,
        loopId: run.loopId,
        version: run.version,
      })),
    );
    const underWay = new Map(
      standings.flatMap(({ conversation_id, runs }) =>
        runs.map((run) => [run.id, { run, conversation_id }] as const),
      ),
    );
    const lateTaps: { conversation_id: string; runId: string }[] = [];
    for (const { conversation_id, body } of events) {
      const { incoming } = body;
      if (incoming.kind === 'tap' && !underWay.has(incoming.runId))
        lateTaps.push({ conversation_id, runId: incoming.runId });
      const moved = incoming.kind === 'move' ? underWay.get(incoming.runId)?.run : undefined;
      if (incoming.kind === 'move' && moved)
        wanted.push({
          clientId: clientOf.get(conversation_id)!,
          loopId: moved.loopId,
          version: incoming.version,
        });
    }
    const tapped = new Map<string, Run>();
    if (lateTaps.length > 0) {
      const { rows } = await db.query<{ client_id: number; state: Run }>(
        `
          select client_id, state from run
          join unnest($1::uuid[], $2::uuid[]) as t (id, conversation_id) using (id, conversation_id)`,
        [lateTaps.map((each) => each.runId), lateTaps.map((each) => each.conversation_id)],
      );
      for (const { client_id, state } of rows) {
        tapped.set(state.id, state);
        wanted.push({ clientId: client_id, loopId: state.loopId, version: state.version });
      }
    }
    await this.#loops.loadVersions(db, wanted);
    return tapped;
  }

  #answer(
    claimed: Claimed[],
    events: PendingRow[],
    standings: Standing[],
    tapped: Map<string, Run>,
    ahead: Pick<Talking, 'bookings' | 'publicReplies'>,
    now: number,
  ): Changes {
    const changes = noChanges();
    const standingOf = new Map(standings.map((each) => [each.conversation_id, each]));
    const eventsOf = new Map<string, PendingRow[]>();
    for (const event of events) {
      const there = eventsOf.get(event.conversation_id);
      if (there) there.push(event);
      else eventsOf.set(event.conversation_id, [event]);
    }
    // One person, one conversation at a time: what another of theirs changes is seen by the next batch.
    const met = new Set<string>();
    for (const conversation of claimed) {
      const { known_person_id: person } = standingOf.get(conversation.id)!;
      if (person && met.has(person)) continue;
      if (person) met.add(person);
      const inOrder = eventsOf.get(conversation.id) ?? [];
      // Those after an event that waits for its predecessor wait with it.
      const held = inOrder.findIndex((event) => !event.ready);
      const due = held < 0 ? inOrder : inOrder.slice(0, held);
      const standing = standingOf.get(conversation.id)!;
      if (due.length > 0)
        converse(
          { conversation, row: standing, runs: standing.runs, tapped, loops: this.#loops, ...ahead, now },
          due,
          changes,
        );
    }
    return changes;
  }
}

/** The posts that events of a batch comment on. */
function commentedIn(claimed: Claimed[], events: PendingRow[]): CommentedPost[] {
  const conversations = new Map(claimed.map((each) => [each.id, each]));
  return events.flatMap(({ conversation_id, body: { incoming } }) => {
    if (incoming.kind !== 'comment') return [];
    const { client_id, line_id } = conversations.get(conversation_id)!;
    return [{ client_id, line_id, id: incoming.postId }];
  });
}
