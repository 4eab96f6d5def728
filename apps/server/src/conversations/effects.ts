import {
  CHANNELS,
  fold,
  sendings,
  type Effect,
  type Incoming,
  type Outgoing,
  type Permission,
  type StepAt,
} from '@dart-loop/core';
import type { BookingsAhead } from '../bookings/calendars';
import type { Failure } from '../channels/adapter';
import { newId } from '../platform/ids';
import type { Published } from '../loops/liveLoops';
import type { Changes, ChangedBy } from './changes';
import type { Claimed } from './claimed';
import type { PublicReplies } from './publicReplies';

type Message = Changes['messages'][number];
export type HowSent = Pick<Message, 'status' | 'via' | 'go_until' | 'failure'>;

/** A message for the conversation, and what it rests on. */
export interface ToSay {
  body: Outgoing;
  how: HowSent;
  from: Pick<Message, 'loop_id' | 'version' | 'step_id' | 'by_hand'>;
  aboutConsent?: boolean;
}

type Written = Exclude<Effect, { kind: 'raise' }>;
type Of<Kind extends Written['kind']> = Extract<Written, { kind: Kind }>;

/** What an effect is written down with. */
export interface EffectOf {
  conversation: Claimed;
  personId: string;
  line: { name: string; channel: keyof typeof CHANNELS };
  published: Published;
  bookings: BookingsAhead;
  publicReplies: PublicReplies;
  changes: Changes;
  /** Of the event that is being answered. */
  eventId: string | null;
  now: number;
  /** The same as ISO, as rows have it. */
  at: string;
  /** Adds a message to the conversation. */
  say: (what: ToSay) => void;
}

const GIVEN_WAY: Failure = {
  code: 'given way',
  reason: 'It was held back until the person would write, and its loop has given way to another since.',
  remedy: 'Nothing to do: what the other loop says is said instead.',
};

/** What each effect of an answer becomes in the batch that is written. */
const WRITE: { [Kind in Written['kind']]: (effect: Of<Kind>, of: EffectOf) => void } = {
  send: (effect, { line, say }) => {
    const { at } = effect;
    for (const { body, may } of sendings(CHANNELS[line.channel], effect.said, effect.permission))
      say({
        body,
        how: howSent(may),
        from: {
          loop_id: at?.loopId ?? null,
          version: at?.version ?? null,
          step_id: at?.stepId ?? null,
          by_hand: effect.by,
        },
        aboutConsent: effect.aboutConsent,
      });
  },
  'say elsewhere': (effect, of) =>
    tellElsewhere(of, effect.conversationId, {
      kind: 'said elsewhere',
      line: of.line.name,
      said: effect.said,
      at: effect.at,
    }),
  'tell elsewhere': (effect, of) => tellElsewhere(of, effect.conversationId, effect.incoming),
  'public reply': (effect, { line, say, conversation, changes, publicReplies }) => {
    const post = { client_id: conversation.client_id, line_id: conversation.line_id, id: effect.postId };
    publicReplies.oneMore(post);
    changes.publicReplies.push(post);
    say({
      body: { channel: line.channel, text: effect.text, taps: [] },
      how: {
        status: 'queued',
        via: { kind: 'public reply', commentId: effect.commentId },
        go_until: null,
        failure: null,
      },
      from: { loop_id: effect.loopId, version: effect.version, step_id: null, by_hand: null },
    });
  },
  release: (effect, { changes, conversation }) =>
    void changes.released.push({
      client_id: conversation.client_id,
      conversation_id: conversation.id,
      go_until: effect.until === null ? null : iso(effect.until),
    }),
  'drop held': (effect, { changes, conversation }) => {
    // What this batch itself holds back is not written yet.
    for (const message of changes.messages)
      if (
        message.conversation_id === conversation.id &&
        message.loop_id === effect.loopId &&
        message.status === 'held'
      )
        Object.assign(message, { status: 'failed', failure: GIVEN_WAY });
    changes.dropped.push({
      client_id: conversation.client_id,
      conversation_id: conversation.id,
      loop_id: effect.loopId,
      up_to: conversation.seq,
      failure: GIVEN_WAY,
    });
  },
  timer: (effect, of) =>
    setTimer(of, effect.key, { set: true, due_at: iso(effect.dueAt), incoming: effect.incoming }),
  'no timer': (effect, of) =>
    setTimer(of, effect.key, { set: false, due_at: of.at, incoming: { kind: 'turn comes' } }),
  'set field': (effect, of) =>
    void of.changes.fieldChanges.push({
      ...ofPerson(of),
      field: effect.field,
      before: effect.before,
      after: effect.after,
      by: changedBy(effect.at, of),
    }),
  tag: (effect, of) =>
    void of.changes.tagChanges.push({
      ...ofPerson(of),
      tag: effect.tag,
      is_on: effect.on,
      by: changedBy(effect.at, of),
    }),
  list: (effect, of) =>
    void of.changes.listChanges.push({
      ...ofPerson(of),
      list: effect.list,
      is_on: effect.on,
      by: effect.at ? changedBy(effect.at, of) : BY_THEMSELVES,
    }),
  consent: (effect, of) =>
    void of.changes.consents.push({
      ...ofPerson(of),
      line_id: of.conversation.line_id,
      conversation_id: of.conversation.id,
      event_id: of.eventId,
      what: effect.what,
      words: effect.words,
      by: effect.at && changedBy(effect.at, of),
      scope: effect.scope,
      list: effect.list,
      wording: effect.wording,
      language: effect.language,
      cue_id: effect.cueId,
      confirmed:
        effect.scope === 'list' &&
        effect.what === 'opt-in' &&
        of.published.lists[fold(effect.list!)]?.double === true,
    }),
  book: (effect, of) => {
    of.changes.bookings.push({
      ...ofPerson(of),
      id: effect.id,
      what: effect.isMove ? 'moved' : 'booked',
      calendar_id: effect.calendarId,
      calendar: effect.calendar,
      starts_at: iso(effect.from),
      ends_at: iso(effect.ends),
      kept_until: iso(effect.until),
      day_field: effect.fields.day,
      time_field: effect.fields.time,
      by: changedBy(effect.at, of),
    });
    of.bookings.take(of.conversation.client_id, of.personId, effect);
  },
  'cancel booking': (effect, of) => {
    of.changes.bookings.push({
      ...ofPerson(of),
      id: effect.id,
      what: 'cancelled',
      calendar: effect.calendar,
      starts_at: iso(effect.from),
      by: changedBy(effect.at, of),
    });
    of.bookings.cancel(of.conversation.client_id, of.personId, effect.id);
  },
  deliver: (effect, of) =>
    void of.changes.deliveries.push({
      ...ofPerson(of),
      destination: effect.destination,
      cause: `loop:${effect.at.loop}`,
    }),
  'send out': (effect, of) =>
    void of.changes.errands.push({
      ...errandOf('send out', effect.at, of),
      run_id: effect.at.runId,
      turn: effect.turn,
      body: { address: effect.address, body: effect.body },
    }),
  'ask sources': ({ question, before, turn, at }, of) =>
    void of.changes.errands.push({
      ...errandOf('ask sources', at, of),
      run_id: at.runId,
      turn,
      body: { question, before, channel: of.line.channel },
    }),
  asked: ({ question, came, passages, at }, of) =>
    void of.changes.asked.push({
      client_id: of.conversation.client_id,
      id: newId(of.now),
      conversation_id: of.conversation.id,
      loop_id: at.loopId,
      at: of.at,
      ...{ question, came, passages },
    }),
  // One errand for each, so that one address that fails holds back no other.
  alert: ({ by, to: all, subject, text, at }, of) => {
    for (const to of all)
      of.changes.errands.push({
        ...errandOf('alert', at, of),
        run_id: null,
        turn: null,
        body: { by, to, subject, text },
      });
  },
};

/** Writes an effect down. */
export function writeEffect<Kind extends Written['kind']>(effect: Of<Kind>, of: EffectOf): void {
  WRITE[effect.kind as Kind](effect, of);
}

const BY_THEMSELVES: ChangedBy = { kind: 'person' };
const iso = (ms: number) => new Date(ms).toISOString();

const ofPerson = ({ conversation, personId, at }: EffectOf) => ({
  client_id: conversation.client_id,
  person_id: personId,
  at,
});

const changedBy = ({ loopId, loop, version, stepId }: StepAt, { conversation }: EffectOf): ChangedBy => ({
  kind: 'loop',
  loopId,
  loop,
  version,
  stepId,
  conversationId: conversation.id,
});

function howSent(may: Permission): HowSent {
  if (may.may === 'go')
    return {
      status: 'queued',
      via: may.via,
      go_until: may.until === null ? null : iso(may.until),
      failure: null,
    };
  const failure =
    may.may === 'wait'
      ? { code: 'held', reason: `Held back: ${may.reason}.`, remedy: 'It goes out when the person writes.' }
      : {
          code: 'dropped',
          reason: `Dropped: ${may.reason}.`,
          remedy: 'The step says so; it can ask for a template instead.',
        };
  return { status: may.may === 'wait' ? 'held' : 'failed', via: null, go_until: null, failure };
}

function tellElsewhere(
  { changes, conversation, at }: EffectOf,
  conversationId: string,
  incoming: Incoming,
): void {
  changes.elsewhere.push({
    client_id: conversation.client_id,
    conversation_id: conversationId,
    at,
    body: { incoming },
  });
}

type Timer = Parameters<Changes['timers']['set']>[1];
function setTimer(
  { changes, conversation }: EffectOf,
  key: string,
  timer: Pick<Timer, 'set' | 'due_at' | 'incoming'>,
): void {
  changes.timers.set(`${conversation.id}|${key}`, {
    client_id: conversation.client_id,
    conversation_id: conversation.id,
    key,
    line_id: conversation.line_id,
    ...timer,
  });
}

const errandOf = <Kind extends 'alert' | 'send out' | 'ask sources'>(
  kind: Kind,
  by: StepAt,
  of: EffectOf,
) => ({
  client_id: of.conversation.client_id,
  id: newId(of.now),
  conversation_id: of.conversation.id,
  line_id: of.conversation.line_id,
  kind,
  by: changedBy(by, of),
  at: of.at,
});
