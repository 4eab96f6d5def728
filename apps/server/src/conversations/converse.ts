import {
  isAsked,
  newStanding,
  respond,
  zoneOf,
  type FromPerson,
  type Incoming,
  type LineFacts,
  type PersonFacts,
  type Response,
  type Run,
  type Shelf,
  type Standing,
} from '@dart-loop/core';
import type { BookingsAhead } from '../bookings/calendars';
import { newId } from '../platform/ids';
import { termsRow } from '../people/facts';
import type { Changes } from './changes';
import type { Claimed, PendingEvent, PersonRow, Profile } from './claimed';
import { writeEffect, type EffectOf, type ToSay } from './effects';
import type { PublicReplies } from './publicReplies';
import type { Published, PublishedLoops } from '../loops/liveLoops';
import { personFrom, worldOf, numberOf, differing, without, isFoundOtherwise } from './talkingAbout';

const PERSON_KINDS: FromPerson['kind'][] = [
  'text',
  'tap',
  'reference',
  'menu',
  'file',
  'place',
  'comment',
  'blocked',
  'other',
];
/** Events that one event may raise in turn; the core cuts chains long before. */
const MOST_RAISED = 100;

/** What the answers of one conversation look at. */
export interface Talking {
  conversation: Claimed;
  row: PersonRow;
  runs: Run[];
  /** Runs that late taps belong to. */
  tapped: ReadonlyMap<string, Run>;
  loops: PublishedLoops;
  bookings: BookingsAhead;
  publicReplies: PublicReplies;
  now: number;
}

/**
 * Plays the due events of one conversation, strictly in order and each with what it raises, and gathers what
 * they change.
 */
export function converse(talking: Talking, events: PendingEvent[], changes: Changes): void {
  const talk = new Talk(talking, events, changes);
  talk.play(events);
  talk.writeWhatBecame();
}

/** One conversation as it becomes while its events are played. */
class Talk {
  readonly #published: Published;
  readonly #line: LineFacts;
  readonly #profile: Profile | undefined;
  readonly #personId: string;
  readonly #before: PersonFacts;
  readonly #runs: Map<string, Run>;
  readonly #changed = new Set<string>();
  readonly #at: string;
  #person: PersonFacts;
  #standing: Standing;
  #seq: number;
  #shelf: Shelf;
  #waitingSince: Date | null;
  #lastWords: string;
  #lastAt: Date;
  /** Whether nobody asked for what is said now: what an event raises is as much asked for as the event. */
  #unasked = false;

  constructor(
    private readonly talking: Talking,
    events: PendingEvent[],
    private readonly changes: Changes,
  ) {
    const { conversation, row, runs, loops, now } = talking;
    this.#published = loops.client(conversation.client_id);
    this.#line = {
      key: row.line_key,
      name: row.line_name,
      channel: row.channel,
      templates: this.#published.templates.get(row.line_key),
    };
    this.#profile = events.find((event) => event.event_id !== null)?.body.profile;
    this.#personId = row.known_person_id ?? newId(now);
    this.#standing = { ...newStanding(), ...conversation.standing };
    this.#before = this.#person = personFrom(row, {
      id: this.#personId,
      line: this.#line,
      standing: this.#standing,
      profile: this.#profile,
      now,
    });
    this.#runs = new Map(runs.map((run) => [run.id, run]));
    this.#seq = conversation.seq;
    this.#shelf = conversation.shelf;
    this.#waitingSince = conversation.waiting_since;
    this.#lastWords = conversation.last_words;
    this.#lastAt = conversation.last_at;
    this.#at = new Date(now).toISOString();
  }

  play(events: readonly PendingEvent[]): void {
    const queue = [...events];
    for (let count = 0; queue.length > 0 && count < events.length + MOST_RAISED; count++)
      queue.unshift(...this.#answer(queue.shift()!));
  }

  /** Answers one event; gives the events that it raises. */
  #answer(event: PendingEvent): PendingEvent[] {
    const { conversation, bookings, publicReplies, now } = this.talking;
    const { incoming } = event.body;
    if (event.id !== null) {
      this.changes.done.push(event.id);
      this.#unasked = !isAsked(incoming, { now, lastHeardAt: this.#standing.lastHeardAt });
    }
    const response = this.#respond(event);
    const ofPerson = PERSON_KINDS.includes(incoming.kind as FromPerson['kind']);
    this.#become(response);
    // What changed nothing and was not decided leaves no entry: a stale timer, a tag that nothing waits for.
    if (response.decision || response.notes.length > 0 || ofPerson)
      this.changes.decisions.push({
        client_id: conversation.client_id,
        id: newId(now),
        conversation_id: conversation.id,
        event_id: event.event_id,
        seq: ++this.#seq,
        at: this.#at,
        candidates: response.decision?.candidates ?? null,
        notes: response.notes,
      });
    if (ofPerson) this.#noteLast(event.body.words ?? '');
    const raised: PendingEvent[] = [];
    const of: EffectOf = {
      conversation,
      personId: this.#personId,
      line: this.#line,
      published: this.#published,
      bookings,
      publicReplies,
      changes: this.changes,
      eventId: event.event_id,
      now,
      at: this.#at,
      say: (what) => this.#say(what),
    };
    for (const effect of response.effects)
      if (effect.kind === 'raise')
        raised.unshift({ id: null, event_id: null, body: { incoming: effect.incoming } });
      else writeEffect(effect, of);
    this.#shelve(response.shelf);
    return raised;
  }

  #respond({ happened_at, body: { incoming } }: PendingEvent): Response {
    const { conversation, row, tapped, loops, bookings, publicReplies, now } = this.talking;
    const { client_id, line_id } = conversation;
    const tappedRun = (tap: Extract<Incoming, { kind: 'tap' }>) =>
      this.#runs.get(tap.runId) ?? tapped.get(tap.runId) ?? null;
    return respond(
      {
        now,
        at: happened_at?.getTime(),
        ...worldOf(this.#published, now),
        line: this.#line,
        person: this.#person,
        number: numberOf(conversation),
        beside: row.beside ?? [],
        calendars: bookings.calendars(conversation.client_id),
        booked: bookings.booked(this.#personId),
        standing: this.#standing,
        runs: this.#underWay,
        tappedRun: incoming.kind === 'tap' ? tappedRun(incoming) : null,
        version: (loopId, version) => loops.version(loopId, version),
        newRunId: newId(now),
        ...(incoming.kind === 'comment' && {
          answeredUnder: publicReplies.given({ client_id, line_id, id: incoming.postId }),
        }),
      },
      incoming,
    );
  }

  #become({ person, standing, runs }: Response): void {
    this.#person = person;
    this.#standing = standing;
    for (const run of runs) {
      this.#runs.set(run.id, run);
      this.#changed.add(run.id);
    }
  }

  #shelve(shelf: Shelf | null): void {
    if (!shelf) return;
    if (shelf === 'waiting on us') this.#waitingSince ??= new Date(this.talking.now);
    else this.#waitingSince = null;
    this.#shelf = shelf;
  }

  #say({ body, how, from, aboutConsent = false }: ToSay): void {
    const { conversation, loops, now } = this.talking;
    this.changes.messages.push({
      client_id: conversation.client_id,
      id: newId(now),
      line_id: conversation.line_id,
      conversation_id: conversation.id,
      seq: ++this.#seq,
      address: conversation.address,
      at: this.#at,
      ...from,
      body,
      ...how,
      unasked: this.#unasked,
      list: (from.loop_id !== null && loops.version(from.loop_id, from.version!)?.loop.list) || null,
      zone: this.#unasked ? zoneOf(this.#person, this.#published.facts, numberOf(conversation)) : null,
      about_consent: aboutConsent,
    });
    this.#noteLast(body.text || `(${body.media?.what ?? ''})`);
  }

  #noteLast(words: string): void {
    this.#lastWords = words.slice(0, 200);
    this.#lastAt = new Date(this.talking.now);
  }

  get #underWay(): Run[] {
    return [...this.#runs.values()].filter((run) => run.status === 'under way');
  }

  /** The rows of what has become of the runs, the person and the conversation. */
  writeWhatBecame(): void {
    this.#writeRuns();
    this.#writePerson();
    this.#writeConversation();
  }

  #writeRuns(): void {
    const { client_id, id: conversation_id } = this.talking.conversation;
    for (const id of this.#changed) {
      const run = this.#runs.get(id)!;
      this.changes.runs.push({
        client_id,
        id,
        conversation_id,
        loop_id: run.loopId,
        version: run.version,
        status: run.status,
        state: run,
        at: this.#at,
      });
    }
  }

  #writePerson(): void {
    const { conversation, row } = this.talking;
    const { client_id } = conversation;
    const [person, before, profile] = [this.#person, this.#before, this.#profile];
    this.changes.people.push({
      client_id,
      id: this.#personId,
      first_name: person.firstName,
      last_name: person.lastName,
      language: person.language,
      fields: differing(person.fields, before.fields),
      fields_off: Object.keys(before.fields).filter((key) => !(key in person.fields)),
      changed: differing(person.changed, before.changed),
      history: differing(person.history, before.history),
      tags_on: without(person.tags, before.tags),
      tags_off: without(before.tags, person.tags),
      lists_on: without(person.lists, before.lists),
      lists_off: without(before.lists, person.lists),
      at: this.#at,
    });
    // What is found by is written anew only where some of it has changed.
    if (!conversation.person_id || isFoundOtherwise(before, person)) {
      const addresses = [conversation.address, row.handle ?? profile?.handle ?? '', ...row.addresses];
      this.changes.terms.push(termsRow(client_id, this.#personId, { ...person, addresses }));
    }
    if (!conversation.person_id)
      this.changes.identities.push({
        client_id,
        id: conversation.id,
        person_id: this.#personId,
        line_id: conversation.line_id,
        address: conversation.address,
        handle: profile?.handle ?? null,
        at: this.#at,
      });
  }

  #writeConversation(): void {
    const { client_id, id } = this.talking.conversation;
    const underWay = this.#underWay;
    const foremost =
      underWay.findLast((run) => run.at?.for === 'reply' || run.at?.for === 'person') ?? underWay.at(-1);
    this.changes.conversations.push({
      client_id,
      id,
      person_id: this.#personId,
      run_id: foremost?.id ?? null,
      run_ids: underWay.map((run) => run.id),
      standing: this.#standing,
      shelf: this.#shelf,
      waiting_since: this.#waitingSince?.toISOString() ?? null,
      seq: this.#seq,
      last_words: this.#lastWords,
      last_at: this.#lastAt.toISOString(),
    });
  }
}
