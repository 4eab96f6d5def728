import { quietUntil } from '../../consent/quiet';
import { hearOther, whyPreferred, type HeardCue, liveCue } from './cueIndex';
import { dateDue } from '../cues';
import { durationMs } from '../../loops/model/basics';
import { valueWords } from '../../people/person';
import { runTimer, type Run } from '../run/run';
import type { Standing } from '../run/standing';
import type { Background, DeliveredEvent, Reply, SaidElsewhere, TimerEvent } from '../steps';
import { timeOut } from '../run/silence';
import { readingWorld } from '../steps/step';
import type { Turn } from '../run/turn';
import { MOST_DEPTH, MOST_STARTS, type World } from '../run/world';
import { fold } from '../../language/fold';
import { readReply } from '../../language/replies';
import { begin, cueCandidate, finished, nothing, won, type Response } from './response';
import { whyNotNow } from './whyNotNow';

/** What happens without the person: time, other loops, other systems. It waits while it would disturb. */

const HOUR = 3_600_000;
/** What waits for its turn waits no longer than this. */
const MOST_WAITING = 24 * HOUR;

/**
 * What nobody asked for now waits: for quiet hours to end, for its turn, for staff to hand back. Null when it
 * may go on.
 */
function mustWait(
  turn: Turn,
  incoming: Background | TimerEvent,
  key: string,
  forced: boolean,
  loop: string,
): Response | null {
  const { world } = turn;
  const ownRun = incoming.kind === 'timer' ? turn.runs.get(incoming.runId) : null;
  const raised = incoming.kind === 'tag' || incoming.kind === 'list' || incoming.kind === 'field';
  const quiet = raised ? null : quietUntil(world.line.channel, world.now, turn.zone, world.client.quiet);
  if (quiet !== null) {
    turn.setTimer(key, quiet, incoming);
    turn.note({ code: 'quiet hours', until: quiet, zone: turn.zone });
    return finished(turn, null, null);
  }
  const foremost = turn.runs.foremost;
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
export function fromErrand(turn: Turn, incoming: DeliveredEvent): Response {
  const run = turn.runs.get(incoming.runId);
  if (!run || run.turn !== incoming.turn) return nothing(turn.world);
  if (turn.standing.held)
    return later(turn, incoming, turn.world.version(run.loopId, run.version)?.loop.name ?? 'a loop');
  return turn.playing.delivered(run, incoming.turn, incoming) ? finished(turn, null) : nothing(turn.world);
}

export function fromTimer(turn: Turn, timer: TimerEvent, forced: boolean): Response {
  const { world } = turn;
  const run = turn.runs.get(timer.runId);
  if (!run || run.turn !== timer.turn || turn.standing.optedOut) return nothing(world);
  if (timer.what === 'gathered') return gathered(turn, run);
  if (run.at?.for === 'person' && turn.standing.held?.by) return nothing(world);
  const loop = world.version(run.loopId, run.version)?.loop.name ?? 'a loop';
  const waits = mustWait(turn, timer, runTimer(run.id), forced, loop);
  if (waits) return waits;
  if (!timeOut(turn, run, timer.turn)) return nothing(world);
  return finished(turn, null);
}

/** Nothing more has come: what was gathered is read as one answer. */
function gathered(turn: Turn, run: Run): Response {
  if (run.gathered.length === 0 || turn.standing.held) return nothing(turn.world);
  const reply: Reply = { kind: 'text', text: run.gathered.join('\n') };
  const reading = turn.replies.readable(run, reply);
  if (reading?.ok) turn.replies.take(run, reply, { ...reading, gathers: false }, true);
  else if (reading && turn.replies.answersUnread(run)) turn.replies.retryOrExit(run, reading);
  else return nothing(turn.world);
  return finished(turn, null);
}

/** What may not go on another line is said here, once this line's quiet hours are over. */
export function fromElsewhere(turn: Turn, incoming: SaidElsewhere): Response {
  const { world } = turn;
  if (turn.standing.optedOut) return nothing(world);
  const quiet = quietUntil(world.line.channel, world.now, turn.zone, world.client.quiet);
  if (quiet !== null) {
    turn.setTimer(`elsewhere:${world.newRunId}`, quiet, incoming);
    turn.note({ code: 'quiet hours', until: quiet, zone: turn.zone });
    return finished(turn, null, null);
  }
  turn.note({ code: 'said for', line: incoming.line });
  turn.voice.utter(incoming.said, incoming.at, null);
  return finished(turn, null);
}

/** What has waited a day for its turn does not wait longer. */
export function turnComes(turn: Turn): Response {
  const due = turn.standing.later[0];
  if (!due) return nothing(turn.world);
  turn.standing.later = turn.standing.later.slice(1);
  const next = turn.standing.later[0];
  if (next) turn.setTimer('later', next.since + MOST_WAITING, { kind: 'turn comes' });
  if (due.incoming.kind === 'delivered') return fromErrand(turn, due.incoming);
  return due.incoming.kind === 'timer'
    ? fromTimer(turn, due.incoming, true)
    : fromBackground(turn, due.incoming, true);
}

/**
 * Cues that the person does not make by writing. Decided like everything else; where no cue waits for it,
 * nothing is.
 */
export function fromBackground(turn: Turn, incoming: Background, forced: boolean): Response {
  const { world } = turn;
  if (incoming.kind === 'start') return fromStart(turn, incoming, forced);
  const found = backgroundCues(world, incoming, turn.zone);
  if (found.again) turn.setTimer(found.again.key, found.again.dueAt, found.again.incoming);
  if (found.heard.length === 0) return found.again ? finished(turn, null, null) : nothing(world);
  const depth = 'depth' in incoming ? incoming.depth : 0;
  const candidates = found.heard.map((each) => {
    return {
      heard: each,
      whyNot: turn.standing.optedOut
        ? 'the person has opted out of this line'
        : (whyNotNow(turn, each) ?? chainTooLong(turn, depth)),
    };
  });
  const best = candidates.find((each) => each.whyNot === null);
  const lost = candidates
    .filter((each) => each !== best)
    .map((each) =>
      cueCandidate(
        each.heard,
        'other cue',
        'lost',
        each.whyNot ?? (best ? whyPreferred(best.heard, each.heard) : ''),
      ),
    );
  if (!best) {
    const cut = chainTooLong(turn, depth);
    if (cut && !turn.standing.optedOut)
      turn.note({ code: 'chain cut', loop: found.heard[0]!.loopName, reason: cut });
    return finished(
      turn,
      { candidates: [won('nobody', 'nobody', 'no cue that waits for this may start now'), ...lost] },
      null,
    );
  }
  if (incoming.kind === 'lead' && !forced) takeLead(turn, incoming, best.heard);
  const waits = mustWait(
    turn,
    incoming,
    `cue:${best.heard.loopId}:${best.heard.cue.id}`,
    forced,
    best.heard.loopName,
  );
  if (waits) return waits;
  const { starts } = turn.standing;
  turn.standing.starts =
    starts.since > world.now - HOUR ? { ...starts, count: starts.count + 1 } : { since: world.now, count: 1 };
  return begin(turn, best.heard, 'other cue', lost, { depth });
}

/**
 * The team starts a loop. It waits while it would disturb, as everything does that the person has not asked
 * for.
 */
function fromStart(turn: Turn, incoming: Extract<Background, { kind: 'start' }>, forced: boolean): Response {
  const version = turn.world.liveLoop(incoming.loop);
  if (!version) return nothing(turn.world);
  const { name } = version.loop;
  if (turn.standing.optedOut)
    return finished(
      turn,
      {
        candidates: [
          won(
            'nobody',
            'nobody',
            `${incoming.by} started ${name}, and the person has opted out of this line`,
          ),
        ],
      },
      null,
    );
  const waits = mustWait(turn, incoming, `start:${version.loopId}`, forced, name);
  if (waits) return waits;
  turn.note({ code: 'started by', loop: name, by: incoming.by });
  turn.playing.start(version, 'team');
  return finished(turn, { candidates: [won('other cue', name, `${incoming.by} started it`)] });
}

/**
 * What the form says is kept at once, whenever its loop may begin: its answers, and that the person agrees to
 * be written to.
 */
function takeLead(
  turn: Turn,
  { form, answers }: Extract<Background, { kind: 'lead' }>,
  { loopId, loopName, version, cue }: HeardCue,
): void {
  if (cue.kind !== 'lead form') return;
  const { world } = turn;
  const at = { runId: world.newRunId, loopId, loop: loopName, version, stepId: cue.id };
  turn.note({ code: 'lead form', form });
  for (const [name, field] of Object.entries(cue.fields ?? {})) {
    const answer = answers[name]?.trim();
    if (!answer) continue;
    const reading = readReply(world.fields[field] ?? 'text', answer, {
      ...readingWorld(turn.stepWorld(null)),
      days: 'any',
    });
    if (reading.ok) {
      turn.changes.setField(field, reading.value, at, 0);
      turn.note({ code: 'field set', field, value: reading.value });
    } else turn.note({ code: 'field not set', field, reason: reading.reason });
  }
  if (cue.optIn && !turn.standing.optedIn) turn.changes.consent('opt-in', cue.optIn, at);
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
  const other = (key: string): Waiting => ({
    heard: hearOther(world.cues, key, world.line.key),
    again: null,
  });
  const none: Waiting = { heard: [], again: null };
  switch (incoming.kind) {
    case 'start':
      return none;
    case 'tag':
      return other(`tag:${incoming.on ? 'added' : 'removed'}:${incoming.tag}`);
    case 'list':
      return other(`list:${incoming.list}`);
    case 'webhook':
      return other(`webhook:${incoming.hook}`);
    case 'lead':
      return other(`form:${incoming.form}`);
    case 'field': {
      const is = incoming.after ? fold(valueWords(incoming.after)) : '';
      const all = other(`field:${incoming.field}`).heard;
      return {
        heard: all.filter(
          ({ cue }) => cue.kind === 'field changed' && (cue.to === undefined || fold(cue.to) === is),
        ),
        again: null,
      };
    }
    case 'date': {
      const heard = liveCue(world.cues, incoming.loopId, incoming.cueId);
      if (heard?.cue.kind !== 'date') return none;
      const value = world.person.fields[heard.cue.field];
      // The day was changed since: its own timer is set.
      if (value?.type !== 'date' || value.value !== incoming.of) return none;
      const next = heard.cue.yearly ? dateDue(heard.cue, value.value, world.now, zone) : null;
      return {
        heard: [heard],
        again: next === null ? null : { key: `date:${heard.loopId}:${heard.cue.id}`, dueAt: next, incoming },
      };
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
