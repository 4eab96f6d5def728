import type { Logger } from 'pino';
import {
  CHANNELS,
  respond,
  type Incoming,
  type LineFacts,
  type Outgoing,
  type PersonFacts,
  type Run,
  type Shelf,
  type Value,
} from '@dart-loop/core';
import type { Clock } from '../clock';
import type { Connection, Db } from '../db/pool';
import { newId } from '../ids';
import { applyChanges, noChanges, type Changes, type ChangedBy } from './apply';
import { faultPoint } from './fault';
import { PublishedLoops } from './loops';

/** Conversations taken in one transaction. */
const MOST_CONVERSATIONS = 50;
const MOST_EVENTS = 500;

interface Claimed {
  client_id: number;
  id: string;
  line_id: number;
  address: string;
  person_id: string | null;
  run_id: string | null;
  shelf: Shelf;
  waiting_since: Date | null;
  seq: number;
  last_words: string;
  last_at: Date;
}
interface PendingEvent {
  id: number;
  conversation_id: string;
  event_id: string | null;
  ready: boolean;
  happened_at: Date;
  body: { incoming: Incoming; words: string; profile: { firstName: string | null; lastName: string | null; handle: string | null } };
}
interface Standing {
  conversation_id: string;
  line_key: string;
  line_name: string;
  channel: LineFacts['channel'];
  cue_revision: number;
  first_name: string | null;
  last_name: string | null;
  fields: Record<string, Value> | null;
  tags: string[] | null;
  run: Run | null;
}

/** The next conversations with events that may be decided, oldest first. Locks die with the connection, so there is no lease. */
const CLAIM = `
  select client_id, id, line_id, address, person_id, run_id, shelf, waiting_since, seq, last_words, last_at
  from conversation
  where (client_id, id) in (
    select client_id, conversation_id from (select client_id, conversation_id from pending where ready_at <= $1 order by id limit ${MOST_EVENTS}) as oldest
  )
  limit ${MOST_CONVERSATIONS} for no key update skip locked`;
/** A statement of its own, so that it sees what was committed before the locks were taken. */
const EVENTS = `
  select id, conversation_id, event_id, ready_at <= $2 as ready, happened_at, body from pending
  where conversation_id = any($1::uuid[]) order by place nulls last, happened_at, id limit 2000`;
const STANDINGS = `
  select c.id as conversation_id, l.key as line_key, l.name as line_name, l.channel, k.cue_revision, p.first_name, p.last_name, p.fields, p.tags, r.state as run
  from conversation c
  join line l on l.id = c.line_id
  join client k on k.id = c.client_id
  left join person p on p.client_id = c.client_id and p.id = c.person_id
  left join run r on r.client_id = c.client_id and r.id = c.run_id
  where c.client_id = any($1::int[]) and c.id = any($2::uuid[])`;

/** What a finished batch touched, for waking the sender and the open screens. */
export interface BatchDone {
  events: number;
  messages: number;
  clientIds: number[];
}

/**
 * Takes the events of each conversation strictly in order, many conversations at a time, and writes all that an event
 * does in one transaction. A crash before the commit leaves no trace; after it, nothing is repeated.
 */
export class Lane {
  readonly #loops = new PublishedLoops();
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly log: Logger,
  ) {}

  /** One batch. Returns null when there was nothing to do. */
  async runBatch(): Promise<BatchDone | null> {
    const db = await this.db.connect();
    let broken: Error | undefined;
    try {
      const now = this.clock.now();
      // Handed over together: the connection takes them in order, and nothing waits for the answer to `begin`.
      const [, { rows: claimed }] = await Promise.all([
        db.query('begin'),
        db.query<Claimed>({ name: 'claim', text: CLAIM, values: [new Date(now)] }),
      ]);
      if (claimed.length === 0) {
        await db.query('rollback');
        return null;
      }
      faultPoint(3);
      const ids = claimed.map((each) => each.id);
      const [{ rows: events }, { rows: standings }] = await Promise.all([
        db.query<PendingEvent>({ name: 'events', text: EVENTS, values: [ids, new Date(now)] }),
        db.query<Standing>({ name: 'standings', text: STANDINGS, values: [[...new Set(claimed.map((each) => each.client_id))], ids] }),
      ]);
      const tapped = await this.#load(db, claimed, events, standings);
      const changes = this.#answer(claimed, events, standings, tapped, now);
      faultPoint(4);
      await applyChanges(db, changes);
      faultPoint(5);
      const committed = await db.query('commit');
      if (committed.command !== 'COMMIT') throw new Error('the database rolled the batch back at its commit');
      faultPoint(6);
      return {
        events: changes.done.length,
        messages: changes.messages.length,
        clientIds: [...new Set(claimed.map((each) => each.client_id))],
      };
    } catch (error) {
      await db.query('rollback').catch((second: Error) => (broken = second));
      throw error;
    } finally {
      db.release(broken);
    }
  }

  /** Loads what the answers will look at: published cues, versions that runs stand on, runs that late taps belong to. */
  async #load(db: Connection, claimed: Claimed[], events: PendingEvent[], standings: Standing[]): Promise<Map<string, Run>> {
    const clientOf = new Map(claimed.map((each) => [each.id, each.client_id]));
    await this.#loops.loadClients(db, new Map(standings.map((each) => [clientOf.get(each.conversation_id)!, each.cue_revision])));
    const active = new Map(standings.flatMap((each) => (each.run ? [[each.conversation_id, each.run] as const] : [])));
    const lateTaps = events.flatMap(({ conversation_id, body: { incoming } }) =>
      incoming.kind === 'tap' && active.get(conversation_id)?.id !== incoming.runId ? [{ conversation_id, runId: incoming.runId }] : [],
    );
    const tapped = new Map<string, Run>();
    if (lateTaps.length > 0) {
      const { rows } = await db.query<{ state: Run }>(
        'select state from run join unnest($1::uuid[], $2::uuid[]) as t (id, conversation_id) using (id, conversation_id)',
        [lateTaps.map((each) => each.runId), lateTaps.map((each) => each.conversation_id)],
      );
      for (const { state } of rows) tapped.set(state.id, state);
    }
    const clientOfRun = new Map([...active].map(([conversation, run]) => [run.id, clientOf.get(conversation)!]));
    for (const tap of lateTaps) clientOfRun.set(tap.runId, clientOf.get(tap.conversation_id)!);
    await this.#loops.loadVersions(
      db,
      [...active.values(), ...tapped.values()].map((run) => ({
        clientId: clientOfRun.get(run.id)!,
        loopId: run.loopId,
        version: run.version,
      })),
    );
    return tapped;
  }

  #answer(claimed: Claimed[], events: PendingEvent[], standings: Standing[], tapped: Map<string, Run>, now: number): Changes {
    const changes = noChanges();
    const standingOf = new Map(standings.map((each) => [each.conversation_id, each]));
    const eventsOf = new Map<string, PendingEvent[]>();
    for (const event of events) eventsOf.set(event.conversation_id, [...(eventsOf.get(event.conversation_id) ?? []), event]);
    for (const conversation of claimed) {
      const inOrder = eventsOf.get(conversation.id) ?? [];
      // Those after an event that waits for its predecessor wait with it.
      const held = inOrder.findIndex((event) => !event.ready);
      const due = held < 0 ? inOrder : inOrder.slice(0, held);
      if (due.length > 0) this.#converse(conversation, due, standingOf.get(conversation.id)!, tapped, now, changes);
    }
    return changes;
  }

  #converse(
    conversation: Claimed,
    events: PendingEvent[],
    standing: Standing,
    tapped: Map<string, Run>,
    now: number,
    changes: Changes,
  ): void {
    const { client_id } = conversation;
    const at = new Date(now).toISOString();
    const published = this.#loops.client(client_id);
    const line: LineFacts = { key: standing.line_key, name: standing.line_name, channel: standing.channel };
    const profile = events.find((event) => event.event_id !== null)?.body.profile;
    const personId = conversation.person_id ?? newId(now);
    let person: PersonFacts = {
      id: personId,
      firstName: standing.first_name ?? profile?.firstName ?? null,
      lastName: standing.last_name ?? profile?.lastName ?? null,
      fields: standing.fields ?? {},
      tags: standing.tags ?? [],
    };
    const before = person;
    const runs = new Map<string, Run>();
    let active = standing.run?.status === 'under way' ? standing.run : null;
    let { seq, shelf, last_words: lastWords } = conversation;
    let waitingSince = conversation.waiting_since;
    let lastAt = conversation.last_at;

    for (const event of events) {
      changes.done.push(event.id);
      const incoming = event.body.incoming;
      let response;
      try {
        response = respond(
          {
            now,
            client: published.facts,
            line,
            fields: published.fields,
            person,
            run: active,
            tappedRun: incoming.kind === 'tap' ? (runs.get(incoming.runId) ?? tapped.get(incoming.runId) ?? null) : null,
            cues: published.cues,
            version: (loopId, version) => this.#loops.version(loopId, version),
            newRunId: newId(now),
          },
          incoming,
        );
      } catch (error) {
        // A defect of ours must not stop the lane; the conversation goes to a person and the log has the place.
        this.log.error(
          { conversation: conversation.id, event: event.event_id, error: (error as Error).stack },
          'an event could not be answered',
        );
        response = {
          decision: {
            candidates: [
              {
                place: 'nobody' as const,
                who: 'nobody',
                loopId: null,
                cueId: null,
                outcome: 'won' as const,
                reason: 'the program met a fault of its own',
              },
            ],
          },
          runs: [],
          person,
          effects: [],
          notes: [{ code: 'nobody' as const, reason: 'the program met a fault of its own' }],
          shelf: 'waiting on us' as const,
        };
      }
      // A stale timer changes nothing and leaves no entry.
      if (incoming.kind === 'timer' && response.runs.length === 0) continue;

      person = response.person;
      for (const run of response.runs) {
        runs.set(run.id, run);
        changes.settledRuns.push({ client_id, run_id: run.id, turn: run.turn });
      }
      const last = response.runs.at(-1);
      if (last) active = last.status === 'under way' ? last : null;
      changes.decisions.push({
        client_id,
        id: newId(now),
        conversation_id: conversation.id,
        event_id: event.event_id,
        seq: ++seq,
        at,
        candidates: response.decision?.candidates ?? null,
        notes: response.notes,
      });
      if (incoming.kind !== 'timer') {
        lastWords = event.body.words.slice(0, 200);
        lastAt = new Date(now);
      }
      const version = last && this.#loops.version(last.loopId, last.version);
      for (const effect of response.effects) {
        if (!last || !version) continue;
        const by: ChangedBy = {
          kind: 'loop',
          loopId: last.loopId,
          loop: version.loop.name,
          version: last.version,
          stepId: 'stepId' in effect ? effect.stepId : '',
          conversationId: conversation.id,
        };
        switch (effect.kind) {
          case 'send':
            for (const body of CHANNELS[line.channel].render(effect.said)) {
              changes.messages.push({
                client_id,
                id: newId(now),
                line_id: conversation.line_id,
                conversation_id: conversation.id,
                seq: ++seq,
                address: conversation.address,
                at,
                loop_id: last.loopId,
                version: last.version,
                step_id: effect.stepId,
                body: body satisfies Outgoing,
              });
              lastWords = body.text.slice(0, 200);
              lastAt = new Date(now);
            }
            break;
          case 'timer':
            changes.timers.push({
              client_id,
              run_id: last.id,
              turn: effect.turn,
              line_id: conversation.line_id,
              conversation_id: conversation.id,
              due_at: new Date(effect.dueAt).toISOString(),
            });
            break;
          case 'set field':
            changes.fieldChanges.push({
              client_id,
              person_id: personId,
              field: effect.field,
              before: effect.before,
              after: effect.after,
              at,
              by,
            });
            break;
          case 'tag':
            changes.tagChanges.push({ client_id, person_id: personId, tag: effect.tag, is_on: effect.on, at, by });
            break;
        }
      }
      if (response.shelf) {
        if (response.shelf === 'waiting on us') waitingSince ??= new Date(now);
        else waitingSince = null;
        shelf = response.shelf;
      }
    }

    for (const run of runs.values())
      changes.runs.push({
        client_id,
        id: run.id,
        conversation_id: conversation.id,
        loop_id: run.loopId,
        version: run.version,
        status: run.status,
        state: run,
        at,
      });
    // A timer that was overtaken within the batch must not be written.
    const turns = new Map([...runs.values()].map((run) => [run.id, run.turn]));
    changes.timers = changes.timers.filter((timer) => !turns.has(timer.run_id) || turns.get(timer.run_id) === timer.turn);
    const changed = Object.fromEntries(Object.entries(person.fields).filter(([key, value]) => before.fields[key] !== value));
    changes.people.push({
      client_id,
      id: personId,
      first_name: person.firstName,
      last_name: person.lastName,
      fields: changed,
      tags_on: person.tags.filter((tag) => !before.tags.includes(tag)),
      tags_off: before.tags.filter((tag) => !person.tags.includes(tag)),
      at,
    });
    if (!conversation.person_id)
      changes.identities.push({
        client_id,
        id: conversation.id,
        person_id: personId,
        line_id: conversation.line_id,
        address: conversation.address,
        handle: profile?.handle ?? null,
        at,
      });
    changes.conversations.push({
      client_id,
      id: conversation.id,
      person_id: personId,
      run_id: active?.id ?? null,
      shelf,
      waiting_since: waitingSince?.toISOString() ?? null,
      seq,
      last_words: lastWords,
      last_at: lastAt.toISOString(),
    });
  }
}
