import {
  afterBooking,
  afterCancelling,
  calendarsByName,
  type BookedAhead,
  type CalendarFacts,
} from '../../booking/calendar';
import { CHANNELS } from '../../channels';
import { fieldsOf } from '../../loops/check/fieldsOf';
import { sendings } from '../../consent/permission';
import { indexCues } from '../decide/cueIndex';
import { dateDue } from '../cues';
import type { ClientFacts, LineFacts } from '../../people/client';
import { findScene, type Loop, type LoopVersion } from '../../loops/model/loop';
import type { Condition } from '../../people/condition';
import type { HolidayTable } from '../../time/holidayTable';
import type { ListFacts } from '../../people/list';
import type { FieldTypes, PersonFacts } from '../../people/person';
import { respond, type Incoming, type Response } from '../decide';
import { finished } from '../decide/response';
import { newStanding } from '../run/standing';
import type { Said } from '../../channels/said';
import type { Effect } from '../steps';
import { isErrand } from '../steps/effects';
import { Turn } from '../run/turn';
import { zoneOf, type World } from '../run/world';
import { fold } from '../../language/fold';
import { entriesOf, offeredIn } from './entries';
import { indexOf, type Rehearsal, type RehearsalEntry } from './state';

export { whyWords } from './entries';
export type { Rehearsal, RehearsalEntry } from './state';

export interface Played {
  rehearsal: Rehearsal;
  entries: RehearsalEntry[];
  responses: Response[];
}

/** Opens a rehearsal of loops with a person. A date field that is known already has its timers. */
export function openRehearsal(options: {
  loops: Loop[];
  client: ClientFacts;
  line: LineFacts;
  person: PersonFacts;
  now: number;
  fields?: FieldTypes;
  /** The client's saved segments by their folded names. */
  segments?: Readonly<Record<string, Condition>>;
  /** The client's lists by their folded names. */
  lists?: Readonly<Record<string, ListFacts>>;
  /** The days with a name of their own in the client's country. */
  holidays?: HolidayTable;
  calendars?: readonly CalendarFacts[];
}): Rehearsal {
  const { loops, client, line, person, now } = options;
  const versions = loops.map((loop, index): LoopVersion => ({
    loopId: `loop-${index + 1}`,
    version: 1,
    loop,
  }));
  const timers: Record<string, Extract<Effect, { kind: 'timer' }>> = {};
  for (const { loopId, cue } of indexCues(versions).dates) {
    const value = person.fields[cue.field];
    const due = value?.type === 'date' ? dateDue(cue, value.value, now, zoneOf(person, client, null)) : null;
    const key = `date:${loopId}:${cue.id}`;
    if (due !== null && value?.type === 'date')
      timers[key] = {
        kind: 'timer',
        key,
        dueAt: due,
        incoming: { kind: 'date', loopId, cueId: cue.id, of: value.value },
      };
  }
  return {
    now,
    client,
    line,
    fields: { ...Object.assign({}, ...loops.map(fieldsOf)), ...options.fields },
    versions,
    segments: options.segments,
    lists: options.lists,
    holidays: options.holidays,
    calendars: calendarsByName(options.calendars ?? []),
    booked: [],
    person,
    // Whom a loop is rehearsed with has agreed to be written to, where the channel asks for no more than
    // that.
    standing: { ...newStanding(), optedIn: true },
    runs: [],
    timers,
    errands: [],
    offered: [],
    offeredBefore: [],
    heldBack: [],
    refuses: false,
    shelf: 'settled',
    decided: [],
    events: 0,
  };
}

function worldOf(rehearsal: Rehearsal, incoming: Incoming, repeated: boolean): World {
  const { versions, runs } = rehearsal;
  return {
    now: rehearsal.now,
    client: rehearsal.client,
    line: rehearsal.line,
    fields: rehearsal.fields,
    person: rehearsal.person,
    standing: rehearsal.standing,
    runs: runs.filter((run) => run.status === 'under way'),
    tappedRun: incoming.kind === 'tap' ? (runs.find((run) => run.id === incoming.runId) ?? null) : null,
    cues: indexOf(versions),
    version: (loopId, version) =>
      versions.find((each) => each.loopId === loopId && each.version === version) ?? null,
    segments: rehearsal.segments,
    lists: rehearsal.lists,
    holidays: () => rehearsal.holidays ?? {},
    calendars: rehearsal.calendars,
    booked: rehearsal.booked.filter(({ from }) => from > rehearsal.now),
    loopIds: Object.fromEntries(versions.map((each) => [fold(each.loop.name), each.loopId])),
    liveLoop: (name) => versions.find((each) => fold(each.loop.name) === fold(name)) ?? null,
    newRunId: `00000000-0000-7000-8000-${(rehearsal.events * 256).toString(16).padStart(12, '0')}`,
    repeated,
  };
}

/**
 * One event and all that it brings about at once. `said` is what the person is seen to do; `eventId` names
 * the event, so that one that comes again is dropped. Pure.
 */
export function play(
  rehearsal: Rehearsal,
  incoming: Incoming,
  said: string | null = null,
  eventId: string | null = null,
): Played {
  const entries: RehearsalEntry[] = said === null ? [] : [{ at: rehearsal.now, from: 'them', text: said }];
  const responses: Response[] = [];
  let state: Rehearsal = rehearsal;
  const queue: Incoming[] = [incoming];
  for (let count = 0; queue.length > 0 && count < 200; count++) {
    const next = queue.shift()!;
    const repeated = count === 0 && eventId !== null && state.decided.includes(eventId);
    const response = respond(worldOf(state, next, repeated), next);
    responses.push(response);
    entries.push(...entriesOf(state, response));
    state = after(state, response);
    for (const effect of response.effects) if (effect.kind === 'raise') queue.push(effect.incoming);
  }
  if (eventId !== null && !state.decided.includes(eventId))
    state = { ...state, decided: [...state.decided, eventId] };
  return { rehearsal: state, entries, responses };
}

/**
 * Begins a loop at one of its scenes, as if its first cue had been heard. Null when there is no such scene.
 */
export function startAt(rehearsal: Rehearsal, sceneId: string): Played | null {
  const version = rehearsal.versions.find(({ loop }) => findScene(loop, sceneId));
  if (!version) return null;
  const turn = new Turn(worldOf(rehearsal, { kind: 'other', what: 'a start' }, false));
  turn.voice.hearPerson(false);
  turn.playing.start(version, version.loop.cues[0]?.id ?? '', { scene: sceneId });
  const response = finished(turn, null);
  return {
    rehearsal: after(rehearsal, response),
    entries: entriesOf(rehearsal, response),
    responses: [response],
  };
}

/** Winds the clock on by `ms`; every timer that falls due on the way is played at its time, in order. */
export function wind(rehearsal: Rehearsal, ms: number): Played {
  const until = rehearsal.now + ms;
  const entries: RehearsalEntry[] = [];
  const responses: Response[] = [];
  let state = rehearsal;
  for (let count = 0; count < 10_000; count++) {
    const due = nextTimer(state);
    if (!due || due.dueAt > until) break;
    const { [due.key]: _gone, ...timers } = state.timers;
    const played = play({ ...state, now: Math.max(state.now, due.dueAt), timers }, due.incoming);
    entries.push(...played.entries);
    responses.push(...played.responses);
    state = played.rehearsal;
  }
  return { rehearsal: { ...state, now: until }, entries, responses };
}

/** Winds the clock on to what falls due next and brings something about; null when nothing does. */
export function skip(rehearsal: Rehearsal): Played | null {
  let state = rehearsal;
  for (let count = 0; count < 50; count++) {
    const due = nextTimer(state);
    if (!due) return null;
    const played = wind(state, Math.max(0, due.dueAt - state.now));
    if (
      played.responses.some(
        (response) =>
          response.trail.length > 0 ||
          response.decision !== null ||
          response.effects.some(({ kind }) => kind === 'send'),
      )
    )
      return played;
    state = played.rehearsal;
  }
  return null;
}

/** The timer that falls due next, or null. */
export function nextTimer(rehearsal: Rehearsal): Extract<Effect, { kind: 'timer' }> | null {
  return Object.values(rehearsal.timers).reduce<Extract<Effect, { kind: 'timer' }> | null>(
    (first, timer) => (!first || timer.dueAt < first.dueAt ? timer : first),
    null,
  );
}

/** Answers what was sent out first. Null when nothing was. */
export function deliver(
  rehearsal: Rehearsal,
  outcome: { ok: boolean; reason: string; body: unknown },
): Played | null {
  const [errand, ...rest] = rehearsal.errands;
  if (!errand) return null;
  return play(
    { ...rehearsal, errands: rest },
    { kind: 'delivered', runId: errand.at.runId, turn: errand.turn, ...outcome },
  );
}

function after(state: Rehearsal, response: Response): Rehearsal {
  const changed = new Map(response.runs.map((run) => [run.id, run]));
  const timers = { ...state.timers };
  let { offered, offeredBefore, heldBack } = state;
  let ahead: BookedAhead = state;
  const channel = CHANNELS[state.line.channel];
  const offer = (said: Said) => {
    if (said.choices.length === 0) return;
    offeredBefore = [...offeredBefore, ...offered].slice(-200);
    offered = offeredIn(said, channel);
  };
  const errands = [...state.errands];
  for (const effect of response.effects) {
    if (effect.kind === 'timer') timers[effect.key] = effect;
    else if (effect.kind === 'no timer') delete timers[effect.key];
    else if (isErrand(effect)) errands.push(effect);
    else if (effect.kind === 'book') {
      ahead = afterBooking(ahead, effect);
    } else if (effect.kind === 'cancel booking') {
      ahead = afterCancelling(ahead, effect.id);
    } else if (effect.kind === 'release') {
      for (const { said } of heldBack) offer(said);
      heldBack = [];
    } else if (effect.kind === 'drop held') {
      heldBack = heldBack.filter((each) => each.runId !== effect.runId);
    } else if (effect.kind === 'send') {
      const all = sendings(channel, effect.said, effect.permission);
      heldBack = [
        ...heldBack,
        ...all
          .filter(({ may }) => may.may === 'wait')
          .map(({ body }) => ({
            runId: effect.at?.runId ?? null,
            said: effect.said,
            body,
            by: effect.by,
          })),
      ];
      if (effect.permission.may === 'go' && !state.refuses) offer(effect.said);
    }
  }
  return {
    ...state,
    person: response.person,
    standing: response.standing,
    runs: [
      ...state.runs.map((run) => changed.get(run.id) ?? run),
      ...response.runs.filter((run) => !state.runs.some((other) => other.id === run.id)),
    ],
    timers,
    errands,
    offered,
    offeredBefore,
    heldBack,
    calendars: ahead.calendars,
    booked: ahead.booked,
    shelf: response.shelf ?? state.shelf,
    events: state.events + 1,
  };
}
