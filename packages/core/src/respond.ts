import { quietUntil } from './consent/quiet';
import { isCancelWord, readConsentWord } from './consent/words';
import { whyNotAgain } from './match/again';
import { hear, hearOther, isKeyword, whyPreferred, type HeardCue } from './match/cueIndex';
import { MATCH_WORDS, cueWords, dateDue } from './match/cues';
import type { Candidate, Decision, Place } from './match/decision';
import { durationMs } from './model/basics';
import type { FileValue, PersonFacts, PlaceValue } from './model/person';
import { fold } from './words/fold';
import { phrases } from './words/phrases';
import { valueWords } from './model/person';
import { runTimer, type Run } from './run/run';
import type { Shelf, Standing } from './run/standing';
import type { Background, DeliveredEvent, Effect, Note, Reply, TimerEvent } from './run/steps';
import { MOST_DEPTH, MOST_STARTS, Turn, liveCue, type World } from './run/turn';

/** What the person did, already read from the channel's format. */
export type FromPerson =
  | { kind: 'text'; text: string }
  | { kind: 'tap'; runId: string; stepId: string; choiceId: string; label: string }
  | { kind: 'reference'; ref: string | null; ad: string | null; text: string | null }
  | { kind: 'menu'; item: string }
  | { kind: 'file'; file: FileValue }
  | { kind: 'place'; place: PlaceValue }
  | { kind: 'other'; what: string };

/** What staff do with a conversation. */
export type FromStaff =
  | { kind: 'step in'; by: string }
  | { kind: 'write'; by: string; text: string }
  | { kind: 'hand back'; by: string; how: 'resume' | 'end' | { scene: string } };

/** What reaches a conversation. */
export type Incoming =
  | FromPerson
  | FromStaff
  | Background
  | TimerEvent
  | { kind: 'turn comes' }
  | DeliveredEvent
  | { kind: 'move'; runId: string; version: number };

export interface Response {
  /** Null for what is not decided: timers belong to their run, staff do as they please. */
  decision: Decision | null;
  /** Runs that changed. */
  runs: Run[];
  person: PersonFacts;
  standing: Standing;
  effects: Effect[];
  notes: Note[];
  /** Null: as it was. */
  shelf: Shelf | null;
}

const HOUR = 3_600_000;
/** What waits for its turn waits no longer than this. */
const MOST_WAITING = 24 * HOUR;

/**
 * The whole answer to one event: who answers, and what that does. Pure. Never throws on what people send; a run whose
 * version is gone is left alone.
 */
export function respond(world: World, incoming: Incoming): Response {
  const turn = new Turn(world);
  switch (incoming.kind) {
    case 'text':
    case 'tap':
    case 'reference':
    case 'menu':
    case 'file':
    case 'place':
    case 'other':
      return fromPerson(turn, incoming);
    case 'step in':
    case 'write':
    case 'hand back':
      return fromStaff(turn, incoming);
    case 'timer':
      return fromTimer(turn, incoming, false);
    case 'turn comes':
      return turnComes(turn);
    case 'delivered':
      return fromErrand(turn, incoming);
    case 'move': {
      const run = turn.run(incoming.runId);
      const version = run && world.version(run.loopId, incoming.version);
      if (!run || !version || !turn.moveTo(run, version)) return nothing(world);
      return finished(turn, null, null);
    }
    case 'tag':
    case 'list':
    case 'field':
    case 'date':
    case 'silence':
    case 'webhook':
      return fromBackground(turn, incoming, false);
  }
}

// ── the person ─────────────────────────────────────────────────────────────────────────────────────────────────────

/** The twelve places, in their order. */
function fromPerson(turn: Turn, incoming: FromPerson): Response {
  const { world } = turn;
  if (world.repeated)
    return {
      ...nothing(world),
      decision: { candidates: [won('repeated delivery', 'nobody', 'the same event was delivered before, and is decided once')] },
    };
  const first = !turn.standing.heardFrom;
  turn.standing.heardFrom = true;
  turn.standing.lastHeardAt = world.now;
  for (const { loopId, cue, lines } of world.cues.silences)
    if (lines.length === 0 || lines.includes(world.line.key))
      turn.setTimer(`silence:${loopId}:${cue.id}`, world.now + durationMs(cue.after), {
        kind: 'silence',
        loopId,
        cueId: cue.id,
        since: world.now,
      });

  const text = textOf(incoming);
  const heard = heardBy(world, incoming, text);
  const consent = text === null ? null : readConsentWord(text, world.line.channel, world.client.languages);

  // 2: words about being written to at all.
  if (consent === 'opt-out' || (consent === 'opt-in' && turn.standing.optedOut) || (consent === 'help' && !turn.standing.optedOut)) {
    const lost = [
      ...outranked(turn, 'the words stop, start or explain everything, and go before all loops'),
      ...passedOver(heard, 'opt-out, opt-in and help words go before all loops'),
    ];
    return aboutConsent(turn, consent, text!, lost);
  }
  if (turn.standing.optedOut) {
    turn.note({ code: 'opted out', what: incoming.kind === 'tap' ? 'a tap' : 'a message' });
    return finished(turn, {
      candidates: [
        won(
          'opt-out, opt-in or help word',
          'nobody',
          'the person has opted out of this line: it is recorded, and nothing is sent until they write START',
        ),
        ...passedOver(heard, 'nothing is sent to a person who has opted out'),
      ],
    });
  }

  // 3: a person of the team has the conversation.
  const held = turn.standing.held;
  if (held) {
    const who = held.by ?? held.team ?? 'whoever is there';
    turn.note({ code: 'recorded', who });
    const reason = held.by
      ? `${held.by} has stepped in: it is recorded, and no loop answers`
      : `the conversation was handed over to ${who}: it is recorded, and no loop answers`;
    return finished(
      turn,
      { candidates: [won('a person has stepped in', who, reason), ...passedOver(heard, 'a person has the conversation')] },
      'waiting on us',
    );
  }

  // 4: a tapped choice.
  if (incoming.kind === 'tap') return fromTap(turn, incoming);

  const run = turn.foremost;
  const reply = replyOf(incoming);
  const reading = run && reply ? turn.readable(run, reply) : null;
  const candidates = heard.map((each) => {
    const running = world.runs.some((other) => other.loopId === each.loopId);
    const whyNot = world.version(each.loopId, each.version)
      ? whyNotAgain(each.cue, each.loopId, world.person, running, world.now)
      : 'its version is gone';
    return { heard: each, whyNot };
  });
  const free = candidates.filter((each) => each.whyNot === null).map((each) => each.heard);
  const barred = candidates.flatMap(({ heard: each, whyNot }) =>
    whyNot === null ? [] : [cueCandidate(each, placeOfCue(each), 'lost', whyNot)],
  );

  // 5: a cue that always wins.
  const always = free.find((each) => each.cue.kind === 'keyword' && each.cue.alwaysWins);
  if (always) {
    const lost = [
      ...free
        .filter((each) => each !== always)
        .map((each) => cueCandidate(each, placeOfCue(each), 'lost', `“${always.loopName}” has a cue that always wins`)),
      ...barred,
    ];
    if (run && reading?.ok)
      lost.unshift(runCandidate(turn, run, 'waiting run can read it', 'lost', 'a cue that always wins goes before a run that waits'));
    return begin(turn, always, 'cue that always wins', lost);
  }

  // 6: a run that waits and can read it. Words that call off have their own exit, where the step has one.
  if (run && reply) {
    const calledOff = text !== null && isCancelWord(text) ? turn.calledOff(run) : null;
    const gathers = calledOff === null && reply.kind === 'text' ? turn.gathersFor(run) : null;
    const summary =
      calledOff !== null
        ? 'words that call it off'
        : gathers && !reading?.ok && run.gathered.length > 0
          ? 'a part of the answer'
          : reading?.ok
            ? reading.summary
            : null;
    if (summary !== null) {
      const lost = [
        ...free.map((each) => cueCandidate(each, placeOfCue(each), 'lost', 'a run that waits and can read the reply goes before cues')),
        ...barred,
      ];
      const winner = runCandidate(turn, run, 'waiting run can read it', 'won', `the run waits for a reply and can read this as ${summary}`);
      if (calledOff !== null) turn.callOff(run, calledOff);
      else if (reading?.ok) turn.take(run, reply, reading);
      else if (reply.kind === 'text') turn.gather(run, reply.text, gathers!);
      return finished(turn, { candidates: [winner, ...lost] });
    }
  }
  const unreadReason =
    reading && !reading.ok
      ? reading.reason
      : incoming.kind === 'menu' || incoming.kind === 'reference'
        ? 'a tap on a link or the menu is no answer'
        : null;
  const unread = (outcome: 'won' | 'lost', more = ''): Candidate[] =>
    run && run.at?.for === 'reply'
      ? [
          runCandidate(
            turn,
            run,
            'waiting run cannot read it',
            outcome,
            `the run waits for a reply, but ${unreadReason ?? `a ${incoming.kind} cannot be read`}${more}`,
          ),
        ]
      : [];

  // 7: links, ads, the menu, keywords.
  const best = free[0];
  if (best) {
    const lost = [
      ...free.slice(1).map((each) => cueCandidate(each, placeOfCue(each), 'lost', whyPreferred(best, each))),
      ...barred,
      ...unread('lost', ', and a cue hears it'),
    ];
    return begin(turn, best, placeOfCue(best), lost);
  }

  // 8: a run that waits and cannot read it.
  if (run && reading && !reading.ok && turn.answersUnread(run)) {
    const winner = unread('won');
    turn.retryOrExit(run, reading.reason);
    return finished(turn, { candidates: [...winner, ...barred] });
  }
  const before = [...barred, ...unread('lost', run && reading ? ', and the step has no retry and no exit for that' : '')];

  // 9 and 11: the first message ever, and what nothing else takes. 10, the understudy, comes with its sources.
  for (const place of first ? (['first message', 'fallback'] as const) : (['fallback'] as const)) {
    // A button that is gone, or a run that waits, is not what a fallback is for.
    if (place === 'fallback' && run?.at?.for === 'reply') break;
    const found = hearOther(world.cues, place, world.line.key).map((each) => ({
      heard: each,
      whyNot: whyNotAgain(
        each.cue,
        each.loopId,
        world.person,
        world.runs.some((other) => other.loopId === each.loopId),
        world.now,
      ),
    }));
    const taker = found.find((each) => each.whyNot === null);
    const losers = found
      .filter((each) => each !== taker)
      .map((each) => cueCandidate(each.heard, place, 'lost', each.whyNot ?? 'it stands later in the client’s own order'));
    if (taker) return begin(turn, taker.heard, place, [...before, ...losers]);
    before.push(...losers);
  }

  // 12: nobody.
  return nobody(
    turn,
    before,
    incoming.kind === 'other'
      ? `a ${incoming.what} cannot be read by any loop`
      : heard.length === 0
        ? 'no cue hears this, and no run can read it'
        : 'the cues that hear this may not start now',
  );
}

function textOf(incoming: FromPerson): string | null {
  if (incoming.kind === 'text') return incoming.text;
  if (incoming.kind === 'reference') return incoming.text;
  return incoming.kind === 'menu' ? incoming.item.replace(/[_-]/g, ' ') : null;
}

function replyOf(incoming: FromPerson): Reply | null {
  switch (incoming.kind) {
    case 'text':
      return { kind: 'text', text: incoming.text };
    case 'file':
      return { kind: 'file', file: incoming.file };
    case 'place':
      return { kind: 'place', place: incoming.place };
    default:
      return null;
  }
}

/** Every cue of place 5 and 7 that hears the event, best first: reference, ad, menu, then keywords. */
function heardBy(world: World, incoming: FromPerson, text: string | null): HeardCue[] {
  const other = (key: string) => hearOther(world.cues, key, world.line.key);
  const typed = text === null ? [] : hear(world.cues, text, world.line.key);
  if (incoming.kind === 'reference') {
    const { ref, ad } = incoming;
    return [
      ...(ref === null ? [] : other(`link:${ref}`)),
      ...(ad === null ? [] : other(`ad:${ad}`)),
      ...(ref === null ? [] : other(`ad-ref:${ref}`)),
      ...typed,
    ];
  }
  return incoming.kind === 'menu' ? [...other(`menu:${incoming.item}`), ...typed] : typed;
}

const placeOfCue = (heard: HeardCue): Place =>
  heard.cue.kind === 'keyword' && heard.cue.alwaysWins ? 'cue that always wins' : 'other cue';

/** Starts the cue's loop, or lets it go on where it is, as the cue says. */
function begin(turn: Turn, heard: HeardCue, place: Place, lost: Candidate[], depth = 0): Response {
  const { world } = turn;
  const how = heardWords(heard);
  const winner = cueCandidate(heard, place, 'won', how);
  const running = world.runs.find((run) => run.loopId === heard.loopId);
  if (running && heard.cue.whileRunning === 'resume') {
    turn.resume(running);
    return finished(turn, { candidates: [winner, ...lost] });
  }
  turn.note({ code: 'cue heard', loop: heard.loopName, how });
  turn.start(world.version(heard.loopId, heard.version)!, heard.cue.id, { depth });
  return finished(turn, { candidates: [winner, ...lost] });
}

function heardWords(heard: HeardCue): string {
  if (!isKeyword(heard)) return `by ${cueWords(heard.cue)}`;
  return `“${heard.keyword}” was heard ${MATCH_WORDS[heard.match]}${heard.slipped ? ', with a slip of typing forgiven' : ''}`;
}

/** Place 4; a late tap starts again from that choice where its version still can, else 12. */
function fromTap(turn: Turn, tap: Extract<FromPerson, { kind: 'tap' }>): Response {
  const { world } = turn;
  const reply: Reply = { kind: 'choice', choiceId: tap.choiceId };
  const own = turn.run(tap.runId);
  const reading = own && own.at?.step === tap.stepId ? turn.readable(own, reply) : null;
  if (own && reading?.ok) {
    const winner = runCandidate(turn, own, 'tapped choice', 'won', `“${tap.label}” was tapped, and the run waits at that choice`);
    turn.take(own, reply, reading);
    return finished(turn, { candidates: [winner] });
  }
  const offered = own ?? world.tappedRun;
  const version = offered && world.version(offered.loopId, offered.version);
  const late = offered && version ? turn.readAt(version, tap.stepId, reply, offered, null) : null;
  if (offered && version && late?.ok) {
    const winner = runCandidate(
      turn,
      offered,
      'tapped choice',
      'won',
      `“${tap.label}” was tapped after the run had moved on, so it starts again from that choice`,
    );
    turn.note({ code: 'late tap', loop: version.loop.name, label: tap.label });
    turn.start(version, offered.cueId, { from: { stepId: tap.stepId, reading: late } });
    return finished(turn, { candidates: [winner] });
  }
  return nobody(turn, [], `the button “${tap.label}” belongs to a version that no longer has that choice`);
}

function aboutConsent(turn: Turn, what: 'opt-out' | 'opt-in' | 'help', text: string, lost: Candidate[]): Response {
  const { client } = turn.world;
  const words = phrases(turn.language);
  const already = turn.standing.optedOut;
  const meaning = { 'opt-out': 'an opt-out word', 'opt-in': 'an opt-in word', help: 'a help word' }[what];
  if (what === 'help') {
    turn.note({ code: 'consent', what });
    turn.say(words.help(client.name, client.brief.phone ?? ''));
  } else {
    turn.consent(what, text, null);
    // One confirmation, and nothing more.
    if (what === 'opt-in') turn.say(words.startedAgain(client.name));
    else if (!already) turn.say(words.stopped(client.name));
    if (what === 'opt-out') turn.standing.held = null;
  }
  return finished(turn, {
    candidates: [won('opt-out, opt-in or help word', 'the program itself', `“${text.trim().slice(0, 40)}” is ${meaning}`), ...lost],
  });
}

// ── time, other loops, other systems ───────────────────────────────────────────────────────────────────────────────

/** What nobody asked for now waits: for quiet hours to end, for its turn, for staff to hand back. Null when it may go on. */
function mustWait(turn: Turn, incoming: Background | TimerEvent, key: string, forced: boolean, loop: string): Response | null {
  const { world } = turn;
  const ownRun = incoming.kind === 'timer' ? turn.run(incoming.runId) : null;
  const raised = incoming.kind === 'tag' || incoming.kind === 'list' || incoming.kind === 'field';
  const quiet = raised ? null : quietUntil(world.line.channel, world.now, turn.zone);
  if (quiet !== null) {
    turn.setTimer(key, quiet, incoming);
    turn.note({ code: 'quiet hours', until: quiet, zone: turn.zone });
    return finished(turn, null, null);
  }
  const foremost = turn.foremost;
  const busy =
    (foremost !== null && foremost.id !== ownRun?.id && foremost.at?.for !== 'errand') ||
    (turn.standing.held !== null && ownRun?.at?.for !== 'person');
  if (!busy || (forced && !turn.standing.held)) return null;
  return later(turn, incoming, loop);
}

function later(turn: Turn, incoming: Standing['later'][number]['incoming'], loop: string): Response {
  turn.standing.later = [...turn.standing.later.slice(-19), { incoming, since: turn.world.now }];
  turn.setTimer('later', turn.standing.later[0]!.since + MOST_WAITING, { kind: 'turn comes' });
  turn.note({
    code: 'its turn later',
    what: turn.standing.held ? 'a person has the conversation' : 'the person is being asked something',
    loop,
  });
  return finished(turn, null, null);
}

/** What a run has sent out was answered. While a person has the conversation the loop holds still with it. */
function fromErrand(turn: Turn, incoming: DeliveredEvent): Response {
  const run = turn.run(incoming.runId);
  if (!run || run.turn !== incoming.turn) return nothing(turn.world);
  if (turn.standing.held) return later(turn, incoming, turn.world.version(run.loopId, run.version)?.loop.name ?? 'a loop');
  return turn.delivered(run, incoming.turn, incoming) ? finished(turn, null) : nothing(turn.world);
}

function fromTimer(turn: Turn, timer: TimerEvent, forced: boolean): Response {
  const { world } = turn;
  const run = turn.run(timer.runId);
  if (!run || run.turn !== timer.turn || turn.standing.optedOut) return nothing(world);
  if (timer.what === 'gathered') return gathered(turn, run);
  if (run.at?.for === 'person' && turn.standing.held?.by) return nothing(world);
  const loop = world.version(run.loopId, run.version)?.loop.name ?? 'a loop';
  const waits = mustWait(turn, timer, runTimer(run.id), forced, loop);
  if (waits) return waits;
  if (!turn.timeOut(run, timer.turn)) return nothing(world);
  return finished(turn, null);
}

/** Nothing more has come: what was gathered is read as one answer. */
function gathered(turn: Turn, run: Run): Response {
  if (run.gathered.length === 0 || turn.standing.held) return nothing(turn.world);
  const reply: Reply = { kind: 'text', text: run.gathered.join('\n') };
  const reading = turn.readable(run, reply);
  if (reading?.ok) turn.take(run, reply, { ...reading, gathers: false });
  else if (reading && turn.answersUnread(run)) turn.retryOrExit(run, reading.reason);
  else return nothing(turn.world);
  return finished(turn, null);
}

/** What has waited a day for its turn does not wait longer. */
function turnComes(turn: Turn): Response {
  const due = turn.standing.later[0];
  if (!due) return nothing(turn.world);
  turn.standing.later = turn.standing.later.slice(1);
  const next = turn.standing.later[0];
  if (next) turn.setTimer('later', next.since + MOST_WAITING, { kind: 'turn comes' });
  if (due.incoming.kind === 'delivered') return fromErrand(turn, due.incoming);
  return due.incoming.kind === 'timer' ? fromTimer(turn, due.incoming, true) : fromBackground(turn, due.incoming, true);
}

/** Cues that the person does not make by writing. Decided like everything else; where no cue waits for it, nothing is. */
function fromBackground(turn: Turn, incoming: Background, forced: boolean): Response {
  const { world } = turn;
  const found = backgroundCues(world, incoming, turn.zone);
  if (found.again) turn.setTimer(found.again.key, found.again.dueAt, found.again.incoming);
  if (found.heard.length === 0) return found.again ? finished(turn, null, null) : nothing(world);
  const depth = 'depth' in incoming ? incoming.depth : 0;
  const candidates = found.heard.map((each) => {
    const running = world.runs.some((run) => run.loopId === each.loopId);
    return {
      heard: each,
      whyNot: turn.standing.optedOut
        ? 'the person has opted out of this line'
        : (whyNotAgain(each.cue, each.loopId, world.person, running, world.now) ?? chainTooLong(turn, depth)),
    };
  });
  const best = candidates.find((each) => each.whyNot === null);
  const lost = candidates
    .filter((each) => each !== best)
    .map((each) => cueCandidate(each.heard, 'other cue', 'lost', each.whyNot ?? (best ? whyPreferred(best.heard, each.heard) : '')));
  if (!best) {
    const cut = chainTooLong(turn, depth);
    if (cut && !turn.standing.optedOut) turn.note({ code: 'chain cut', loop: found.heard[0]!.loopName, reason: cut });
    return finished(turn, { candidates: [won('nobody', 'nobody', 'no cue that waits for this may start now'), ...lost] }, null);
  }
  const waits = mustWait(turn, incoming, `cue:${best.heard.loopId}:${best.heard.cue.id}`, forced, best.heard.loopName);
  if (waits) return waits;
  const { starts } = turn.standing;
  turn.standing.starts = starts.since > world.now - HOUR ? { ...starts, count: starts.count + 1 } : { since: world.now, count: 1 };
  return begin(turn, best.heard, 'other cue', lost, depth);
}

function chainTooLong(turn: Turn, depth: number): string | null {
  if (depth > MOST_DEPTH) return `loops have started each other ${MOST_DEPTH} times without the person`;
  const { starts } = turn.standing;
  return starts.since > turn.world.now - HOUR && starts.count >= MOST_STARTS
    ? `${MOST_STARTS} loops have started here within an hour without the person`
    : null;
}

interface Waiting {
  heard: HeardCue[];
  /** A timer that is set anew: a yearly day, or one that came too early. */
  again: { key: string; dueAt: number; incoming: Background } | null;
}

function backgroundCues(world: World, incoming: Background, zone: string): Waiting {
  const other = (key: string): Waiting => ({ heard: hearOther(world.cues, key, world.line.key), again: null });
  const none: Waiting = { heard: [], again: null };
  switch (incoming.kind) {
    case 'tag':
      return other(`tag:${incoming.on ? 'added' : 'removed'}:${incoming.tag}`);
    case 'list':
      return other(`list:${incoming.list}`);
    case 'webhook':
      return other(`webhook:${incoming.hook}`);
    case 'field': {
      const is = incoming.after ? fold(valueWords(incoming.after)) : '';
      const all = other(`field:${incoming.field}`).heard;
      return { heard: all.filter(({ cue }) => cue.kind === 'field changed' && (cue.to === undefined || fold(cue.to) === is)), again: null };
    }
    case 'date': {
      const heard = liveCue(world.cues, incoming.loopId, incoming.cueId);
      if (heard?.cue.kind !== 'date') return none;
      const value = world.person.fields[heard.cue.field];
      // The day was changed since: its own timer is set.
      if (value?.type !== 'date' || value.value !== incoming.of) return none;
      const next = heard.cue.yearly ? dateDue(heard.cue, value.value, world.now, zone) : null;
      return { heard: [heard], again: next === null ? null : { key: `date:${heard.loopId}:${heard.cue.id}`, dueAt: next, incoming } };
    }
    case 'silence': {
      const heard = liveCue(world.cues, incoming.loopId, incoming.cueId);
      if (heard?.cue.kind !== 'silence') return none;
      const since = world.standing.lastHeardAt ?? incoming.since;
      if (since > incoming.since) return none;
      const due = since + durationMs(heard.cue.after);
      // The cue was published with a longer time since.
      return due > world.now
        ? { heard: [], again: { key: `silence:${heard.loopId}:${heard.cue.id}`, dueAt: due, incoming } }
        : { heard: [heard], again: null };
    }
  }
}

// ── staff ──────────────────────────────────────────────────────────────────────────────────────────────────────────

function fromStaff(turn: Turn, incoming: FromStaff): Response {
  const { world } = turn;
  const held = turn.standing.held;
  if (incoming.kind === 'step in' || (incoming.kind === 'write' && held?.by !== incoming.by)) {
    turn.standing.held = { team: null, note: '', runId: turn.foremost?.id ?? null, ...held, by: incoming.by, since: world.now };
    turn.note({ code: 'stepped in', by: incoming.by });
  }
  if (incoming.kind === 'write') {
    if (turn.standing.optedOut) turn.note({ code: 'opted out', what: 'a message of ours' });
    else turn.say(incoming.text, incoming.by);
  }
  if (incoming.kind !== 'hand back') return finished(turn, null, 'waiting on us');
  // There is nothing to hand back; settling a conversation that waits is another matter.
  if (!held && incoming.how !== 'end') return nothing(world);
  const run = (held?.runId ? turn.run(held.runId) : null) ?? turn.foremost;
  const how = incoming.how === 'resume' ? 'the loop goes on' : incoming.how === 'end' ? 'settled' : `from the scene ${incoming.how.scene}`;
  turn.standing.held = null;
  turn.note({ code: 'handed back', by: incoming.by, how });
  if (incoming.how === 'end') turn.stopAll();
  else if (run?.status === 'under way') {
    if (incoming.how === 'resume') turn.handBack(run);
    else if (!turn.restartAt(run, incoming.how.scene))
      turn.note({ code: 'unusable', reason: `the scene “${incoming.how.scene}” is missing` });
  }
  return finished(turn, null);
}

// ── what they have in common ───────────────────────────────────────────────────────────────────────────────────────

/** Gathers the answer. The shelf follows from what is under way, unless it is given. */
function finished(turn: Turn, decision: Decision | null, shelf?: Shelf | null): Response {
  turn.callLater();
  const stopped =
    turn.changed.some((run) => run.status === 'stopped') &&
    !turn.notes.some((note) => note.code === 'consent' || note.code === 'handed back');
  const follows: Shelf = turn.standing.held || stopped ? 'waiting on us' : turn.underWay.length > 0 ? 'running' : 'settled';
  return {
    decision,
    runs: turn.changed,
    person: turn.person,
    standing: turn.standing,
    effects: turn.allEffects(),
    notes: turn.notes,
    shelf: shelf === undefined ? follows : shelf,
  };
}

function nothing(world: World): Response {
  return { decision: null, runs: [], person: world.person, standing: world.standing, effects: [], notes: [], shelf: null };
}

function nobody(turn: Turn, losers: Candidate[], reason: string): Response {
  turn.note({ code: 'nobody', reason });
  return finished(turn, { candidates: [won('nobody', 'nobody', reason), ...losers] }, 'waiting on us');
}

function won(place: Place, who: string, reason: string): Candidate {
  return { place, who, loopId: null, cueId: null, outcome: 'won', reason };
}

function runCandidate(turn: Turn, run: Run, place: Place, outcome: 'won' | 'lost', reason: string): Candidate {
  const who = turn.world.version(run.loopId, run.version)?.loop.name ?? 'a loop';
  return { place, who, loopId: run.loopId, cueId: run.cueId, outcome, reason };
}

function outranked(turn: Turn, reason: string): Candidate[] {
  const run = turn.foremost;
  return run?.at?.for === 'reply' ? [runCandidate(turn, run, 'waiting run can read it', 'lost', reason)] : [];
}

function passedOver(heard: HeardCue[], reason: string): Candidate[] {
  return heard.map((each) => cueCandidate(each, placeOfCue(each), 'lost', reason));
}

function cueCandidate(heard: HeardCue, place: Place, outcome: 'won' | 'lost', reason: string): Candidate {
  return { place, who: heard.loopName, loopId: heard.loopId, cueId: heard.cue.id, outcome, reason };
}
