import {
  CHANNELS,
  fold,
  isAsked,
  newStanding,
  respond,
  sendings,
  tieOf,
  zoneOf,
  type Beside,
  type Effect,
  type FromPerson,
  type Incoming,
  type LineFacts,
  type Outgoing,
  type Passage,
  type PersonFacts,
  type Response,
  type Run,
  type Shelf,
  type Standing,
  type StepAt,
  type Value,
} from '@dart-loop/core';
import type { BookingsAhead } from '../bookings/calendars';
import { toJson } from '../platform/db/json';
import { newId } from '../platform/ids';
import { termsRow } from '../people/facts';
import type { Changes, ChangedBy } from './apply';
import type { Published, PublishedLoops } from '../loops/liveLoops';

/** A conversation that was claimed, with all that its answers may look at. */
export interface Claimed {
  client_id: number;
  id: string;
  line_id: number;
  address: string;
  person_id: string | null;
  run_ids: string[];
  standing: Partial<Standing>;
  shelf: Shelf;
  waiting_since: Date | null;
  seq: number;
  last_words: string;
  last_at: Date;
}
export interface PersonRow {
  line_key: string;
  line_name: string;
  channel: LineFacts['channel'];
  first_name: string | null;
  last_name: string | null;
  language: string | null;
  fields: Record<string, Value> | null;
  changed: Record<string, number> | null;
  tags: string[] | null;
  lists: string[] | null;
  history: Record<string, Passage> | null;
  source: string | null;
  created_at: Date | null;
  last_seen_at: Date | null;
  /** Of the person's other identities; and the handle of this one. */
  addresses: string[];
  handle: string | null;
  /** The person of the conversation, or, when it has none yet, whoever has the same telephone number. */
  known_person_id: string | null;
  beside: Beside[] | null;
}
export interface Profile {
  firstName: string | null;
  lastName: string | null;
  handle: string | null;
  language?: string | null;
}
export interface PendingEvent {
  /** Null for what the conversation itself has raised. */
  id: number | null;
  event_id: string | null;
  /** When it happened, by the platform's own time. */
  happened_at?: Date;
  body: { incoming: Incoming; words?: string; profile?: Profile };
}

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

/**
 * Plays the due events of one conversation, strictly in order and each with what it raises, and gathers what
 * they change.
 * `tapped` are runs that late taps belong to.
 */
export function converse(
  conversation: Claimed,
  events: PendingEvent[],
  row: PersonRow,
  runsBefore: Run[],
  tapped: Map<string, Run>,
  loops: PublishedLoops,
  bookings: BookingsAhead,
  now: number,
  changes: Changes,
): void {
  const { client_id } = conversation;
  const at = new Date(now).toISOString();
  const published = loops.client(client_id);
  const line: LineFacts = {
    key: row.line_key,
    name: row.line_name,
    channel: row.channel,
    templates: published.templates.get(row.line_key),
  };
  const profile = events.find((event) => event.event_id !== null)?.body.profile;
  const personId = row.known_person_id ?? newId(now);
  const standingBefore: Standing = { ...newStanding(), ...conversation.standing };
  let person: PersonFacts = {
    id: personId,
    firstName: row.first_name ?? profile?.firstName ?? null,
    lastName: row.last_name ?? profile?.lastName ?? null,
    language: profile?.language ?? row.language,
    fields: row.fields ?? {},
    changed: row.changed ?? {},
    tags: row.tags ?? [],
    lists: row.lists ?? [],
    history: row.history ?? {},
    ties:
      row.known_person_id === null
        ? []
        : [
            tieOf(line, standingBefore),
            ...(row.beside ?? []).map((other) => tieOf(other.line, other.standing)),
          ],
    source: row.source,
    met: row.created_at?.getTime() ?? now,
    seen: row.last_seen_at?.getTime() ?? now,
  };
  const before = person;
  const runs = new Map<string, Run>(runsBefore.map((run) => [run.id, run]));
  const changed = new Set<string>();
  let standing = standingBefore;
  let { seq, shelf, last_words: lastWords } = conversation;
  let waitingSince = conversation.waiting_since;
  let lastAt = conversation.last_at;

  const queue = [...events];
  // What an event raises is as much asked for as the event itself.
  let unasked = false;
  for (let count = 0; queue.length > 0 && count < events.length + MOST_RAISED; count++) {
    const event = queue.shift()!;
    if (event.id !== null) changes.done.push(event.id);
    const { incoming } = event.body;
    if (event.id !== null) unasked = !isAsked(incoming, { now, lastHeardAt: standing.lastHeardAt });
    const response = answer(incoming, event.id ?? 0, event.happened_at?.getTime());
    const ofPerson = PERSON_KINDS.includes(incoming.kind as FromPerson['kind']);
    person = response.person;
    standing = response.standing;
    for (const run of response.runs) {
      runs.set(run.id, run);
      changed.add(run.id);
    }
    // What changed nothing and was not decided leaves no entry: a stale timer, a tag that nothing waits for.
    if (response.decision || response.notes.length > 0 || ofPerson)
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
    if (ofPerson) {
      lastWords = (event.body.words ?? '').slice(0, 200);
      lastAt = new Date(now);
    }
    for (const effect of response.effects) {
      if (effect.kind === 'raise')
        queue.unshift({ id: null, event_id: null, body: { incoming: effect.incoming } });
      else gather(effect, event.event_id);
    }
    if (response.shelf) {
      if (response.shelf === 'waiting on us') waitingSince ??= new Date(now);
      else waitingSince = null;
      shelf = response.shelf;
    }
  }

  for (const id of changed) {
    const run = runs.get(id)!;
    changes.runs.push({
      client_id,
      id,
      conversation_id: conversation.id,
      loop_id: run.loopId,
      version: run.version,
      status: run.status,
      state: run,
      at,
    });
  }
  const differing = <T>(after: Record<string, T>, earlier: Record<string, T>) =>
    Object.fromEntries(Object.entries(after).filter(([key, value]) => earlier[key] !== value));
  const without = (after: string[], earlier: string[]) => after.filter((each) => !earlier.includes(each));
  changes.people.push({
    client_id,
    id: personId,
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
    at,
  });
  // What is found by is written anew only where some of it has changed.
  const addresses = [conversation.address, row.handle ?? profile?.handle ?? '', ...row.addresses];
  if (!conversation.person_id || isFoundOtherwise(before, person)) {
    changes.terms.push(termsRow(client_id, personId, { ...person, addresses }));
  }
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
  const underWay = [...runs.values()].filter((run) => run.status === 'under way');
  const foremost =
    underWay.findLast((run) => run.at?.for === 'reply' || run.at?.for === 'person') ?? underWay.at(-1);
  changes.conversations.push({
    client_id,
    id: conversation.id,
    person_id: personId,
    run_id: foremost?.id ?? null,
    run_ids: underWay.map((run) => run.id),
    standing,
    shelf,
    waiting_since: waitingSince?.toISOString() ?? null,
    seq,
    last_words: lastWords,
    last_at: lastAt.toISOString(),
  });

  function answer(incoming: Incoming, count: number, at: number | undefined): Response {
    return respond(
      {
        now,
        at,
        ...worldOf(published),
        line,
        person,
        number: conversation.address.startsWith('+') ? conversation.address : null,
        beside: row.beside ?? [],
        calendars: bookings.calendars(client_id),
        booked: bookings.booked(personId),
        standing,
        runs: [...runs.values()].filter((run) => run.status === 'under way'),
        tappedRun:
          incoming.kind === 'tap' ? (runs.get(incoming.runId) ?? tapped.get(incoming.runId) ?? null) : null,
        version: (loopId, version) => loops.version(loopId, version),
        newRunId: newId(now),
        count,
      },
      incoming,
    );
  }

  type Message = Changes['messages'][number];
  function say(
    body: Outgoing,
    how: Pick<Message, 'status' | 'via' | 'go_until' | 'failure'>,
    from: Pick<Message, 'loop_id' | 'version' | 'step_id' | 'by_hand'>,
    aboutConsent = false,
  ): void {
    const { line_id, address } = conversation;
    changes.messages.push({
      client_id,
      id: newId(now),
      line_id,
      conversation_id: conversation.id,
      seq: ++seq,
      address,
      at,
      ...from,
      body,
      ...how,
      unasked,
      list: (from.loop_id !== null && loops.version(from.loop_id, from.version!)?.loop.list) || null,
      zone: unasked
        ? zoneOf(person, published.facts, conversation.address.startsWith('+') ? conversation.address : null)
        : null,
      about_consent: aboutConsent,
    });
    lastWords = (body.text || `(${body.media?.what ?? ''})`).slice(0, 200);
    lastAt = new Date(now);
  }

  function gather(effect: Exclude<Effect, { kind: 'raise' }>, eventId: string | null): void {
    const changedBy = ({ loopId, loop, version, stepId }: StepAt): ChangedBy => ({
      kind: 'loop',
      loopId,
      loop,
      version,
      stepId,
      conversationId: conversation.id,
    });
    const ofPerson = { client_id, person_id: personId, at };
    switch (effect.kind) {
      case 'send':
        for (const { body, may } of sendings(CHANNELS[line.channel], effect.said, effect.permission))
          say(
            body,
            may.may === 'go'
              ? {
                  status: 'queued',
                  via: may.via,
                  go_until: may.until === null ? null : new Date(may.until).toISOString(),
                  failure: null,
                }
              : {
                  status: may.may === 'wait' ? 'held' : 'failed',
                  via: null,
                  go_until: null,
                  failure:
                    may.may === 'wait'
                      ? {
                          code: 'held',
                          reason: `Held back: ${may.reason}.`,
                          remedy: 'It goes out when the person writes.',
                        }
                      : {
                          code: 'dropped',
                          reason: `Dropped: ${may.reason}.`,
                          remedy: 'The step says so; it can ask for a template instead.',
                        },
                },
            {
              loop_id: effect.at?.loopId ?? null,
              version: effect.at?.version ?? null,
              step_id: effect.at?.stepId ?? null,
              by_hand: effect.by,
            },
            effect.aboutConsent,
          );
        return;
      case 'say elsewhere':
        changes.elsewhere.push({
          client_id,
          conversation_id: effect.conversationId,
          at,
          body: { incoming: { kind: 'said elsewhere', line: line.name, said: effect.said, at: effect.at } },
        });
        return;
      case 'public reply':
        say(
          { channel: line.channel, text: effect.text, taps: [] },
          {
            status: 'queued',
            via: { kind: 'public reply', commentId: effect.commentId },
            go_until: null,
            failure: null,
          },
          { loop_id: effect.loopId, version: effect.version, step_id: null, by_hand: null },
        );
        return;
      case 'release':
        changes.released.push({
          client_id,
          conversation_id: conversation.id,
          go_until: effect.until === null ? null : new Date(effect.until).toISOString(),
        });
        return;
      case 'timer':
      case 'no timer':
        changes.timers.set(`${conversation.id}|${effect.key}`, {
          client_id,
          conversation_id: conversation.id,
          key: effect.key,
          line_id: conversation.line_id,
          ...(effect.kind === 'timer'
            ? { set: true, due_at: new Date(effect.dueAt).toISOString(), incoming: effect.incoming }
            : { set: false, due_at: at, incoming: { kind: 'turn comes' } }),
        });
        return;
      case 'set field':
        changes.fieldChanges.push({
          ...ofPerson,
          field: effect.field,
          before: effect.before,
          after: effect.after,
          by: changedBy(effect.at),
        });
        return;
      case 'tag':
        changes.tagChanges.push({ ...ofPerson, tag: effect.tag, is_on: effect.on, by: changedBy(effect.at) });
        return;
      case 'list':
        changes.listChanges.push({
          ...ofPerson,
          list: effect.list,
          is_on: effect.on,
          by: effect.at ? changedBy(effect.at) : BY_THEMSELVES,
        });
        return;
      case 'consent':
        changes.consents.push({
          ...ofPerson,
          line_id: conversation.line_id,
          conversation_id: conversation.id,
          event_id: eventId,
          what: effect.what,
          words: effect.words,
          by: effect.at && changedBy(effect.at),
          scope: effect.scope,
          list: effect.list,
          wording: effect.wording,
          language: effect.language,
          cue_id: effect.cueId,
          confirmed:
            effect.scope === 'list' &&
            effect.what === 'opt-in' &&
            published.lists[fold(effect.list!)]?.double === true,
        });
        return;
      case 'tell elsewhere':
        changes.elsewhere.push({
          client_id,
          conversation_id: effect.conversationId,
          at,
          body: { incoming: effect.incoming },
        });
        return;
      case 'book': {
        const iso = (ms: number) => new Date(ms).toISOString();
        changes.bookings.push({
          ...ofPerson,
          id: effect.id,
          is_move: effect.isMove,
          calendar_id: effect.calendarId,
          calendar: effect.calendar,
          starts_at: iso(effect.from),
          ends_at: iso(effect.ends),
          kept_until: iso(effect.until),
          day_field: effect.fields.day,
          time_field: effect.fields.time,
          by: changedBy(effect.at),
        });
        bookings.take(client_id, personId, effect);
        return;
      }
      case 'deliver':
        changes.deliveries.push({
          ...ofPerson,
          destination: effect.destination,
          cause: `loop:${effect.at.loop}`,
        });
        return;
      case 'alert':
      case 'send out': {
        const errand = {
          client_id,
          id: newId(now),
          conversation_id: conversation.id,
          line_id: conversation.line_id,
          kind: effect.kind,
          by: changedBy(effect.at),
          at,
        };
        if (effect.kind === 'send out')
          changes.errands.push({
            ...errand,
            run_id: effect.at.runId,
            turn: effect.turn,
            body: { address: effect.address, body: effect.body },
          });
        // One errand for each, so that one address that fails holds back no other.
        else
          for (const to of effect.to)
            changes.errands.push({
              ...errand,
              id: newId(now),
              run_id: null,
              turn: null,
              body: { by: effect.by, to, subject: effect.subject, text: effect.text },
            });
        return;
      }
    }
  }
}

const BY_THEMSELVES: ChangedBy = { kind: 'person' };

/** Whether terms or texts of a person are others now. Most events change none. */
function isFoundOtherwise(before: PersonFacts, after: PersonFacts): boolean {
  const same = (one: unknown, other: unknown) => one === other || toJson(one) === toJson(other);
  const passages = (person: PersonFacts) =>
    Object.entries(person.history).map(([loopId, { finished }]) => `${loopId}${finished === null}`);
  return !(
    same(before.fields, after.fields) &&
    same(before.tags, after.tags) &&
    same(before.lists, after.lists) &&
    same(before.ties, after.ties) &&
    before.firstName === after.firstName &&
    before.lastName === after.lastName &&
    before.language === after.language &&
    (before.history === after.history || same(passages(before), passages(after)))
  );
}

const worldOf = ({ facts, fields, cues, named, segments, loopIds, lists }: Published) => ({
  client: facts,
  fields,
  cues,
  segments,
  loopIds,
  lists,
  liveLoop: (name: string) => named.get(fold(name)) ?? null,
});
