import { hear, whyPreferred, type CueIndex, type HeardCue } from './match/cueIndex';
import type { Candidate, Decision, Place } from './match/decision';
import type { LoopVersion } from './model/loop';
import type { PersonFacts } from './model/person';
import { readable, restartFromChoice, retryOrExit, startRun, takeReply, timeOut, type Moved, type Run } from './run/run';
import type { Effect, Note, Reply, StepWorld } from './run/steps';

/** What reached us on a conversation, already read from the channel's format. */
export type Incoming =
  | { kind: 'text'; text: string }
  | { kind: 'tap'; runId: string; stepId: string; choiceId: string; label: string }
  | { kind: 'timer'; runId: string; turn: number }
  | { kind: 'other'; what: string };

/** Everything the answer may depend on. Time, ids and data come in as values: the same world gives the same answer. */
export interface World extends StepWorld {
  person: PersonFacts;
  /** The conversation's run under way, if there is one. */
  run: Run | null;
  /** For a tap: the run its button was offered in, when that is not the one under way. */
  tappedRun: Run | null;
  cues: CueIndex;
  version(loopId: string, version: number): LoopVersion | null;
  /** The id a run gets if this event starts one: a UUID. */
  newRunId: string;
}

/** Where a conversation stands for the people at the agency. */
export type Shelf = 'waiting on us' | 'running' | 'settled';

export interface Response {
  /** Null for a timer: it belongs to its run and nothing is decided. */
  decision: Decision | null;
  /** Runs that changed, in order; the last one may be under way. */
  runs: Run[];
  person: PersonFacts;
  effects: Effect[];
  notes: Note[];
  /** Null: as it was. */
  shelf: Shelf | null;
}

/**
 * The whole answer to one event: who answers, and what that does. Pure. Never throws on what people send; a run whose
 * version is gone is stopped with a note.
 */
export function respond(world: World, incoming: Incoming): Response {
  switch (incoming.kind) {
    case 'timer':
      return respondToTimer(world, incoming);
    case 'tap':
      return respondToTap(world, incoming);
    case 'text':
      return respondToText(world, incoming.text);
    case 'other':
      return nobody(world, [], `a ${incoming.what} cannot be read by any loop yet`);
  }
}

function respondToTimer(world: World, timer: { runId: string; turn: number }): Response {
  const run = world.run;
  const version = run?.id === timer.runId ? world.version(run.loopId, run.version) : null;
  const moved = run && version ? timeOut(version, world, world.person, run, timer.turn) : null;
  return moved ? answered(null, [], moved) : { decision: null, runs: [], person: world.person, effects: [], notes: [], shelf: null };
}

/** Places 4 and 12. */
function respondToTap(world: World, tap: { runId: string; stepId: string; choiceId: string; label: string }): Response {
  const reply: Reply = { kind: 'choice', choiceId: tap.choiceId };
  const active = world.run;
  const version = active && world.version(active.loopId, active.version);
  if (active && version && active.id === tap.runId && active.at?.step === tap.stepId && readable(version, active, reply, world)?.ok)
    return answered(
      {
        candidates: [
          candidate('tapped choice', version.loop.name, active, 'won', `“${tap.label}” was tapped, and the run waits at that choice`),
        ],
      },
      [],
      takeReply(version, world, world.person, active, reply),
    );

  const offered = active?.id === tap.runId ? active : world.tappedRun;
  const offeredVersion = offered && world.version(offered.loopId, offered.version);
  const restarted =
    offered && offeredVersion
      ? restartFromChoice(offeredVersion, world, world.person, world.newRunId, offered.cueId, tap.stepId, tap.choiceId)
      : null;
  if (offered && offeredVersion && restarted) {
    const decision = {
      candidates: [
        candidate(
          'tapped choice',
          offeredVersion.loop.name,
          offered,
          'won',
          `“${tap.label}” was tapped after the run had moved on, so it starts again from that choice`,
        ),
      ],
    };
    const replaced = replace(world);
    return answered(decision, replaced.runs, restarted, [
      { code: 'late tap', loop: offeredVersion.loop.name, label: tap.label },
      ...replaced.notes,
    ]);
  }
  return nobody(world, [], `the button “${tap.label}” belongs to a version that no longer has that choice`);
}

/** Places 6, 7, 8 and 12. */
function respondToText(world: World, text: string): Response {
  const reply: Reply = { kind: 'text', text };
  const run = world.run;
  const version = run && world.version(run.loopId, run.version);
  const reading = run && version ? readable(version, run, reply, world) : null;
  const heard = hear(world.cues, text, world.line.key);

  if (run && version && reading?.ok) {
    const won = candidate(
      'waiting run can read it',
      version.loop.name,
      run,
      'won',
      `the run waits for a reply and can read this as ${reading.summary}`,
    );
    const lost = heard.map((cue) => cueCandidate(cue, 'lost', 'a waiting run that can read the reply goes before keywords'));
    return answered({ candidates: [won, ...lost] }, [], takeReply(version, world, world.person, run, reply));
  }

  const unread: Candidate[] =
    run && version && reading
      ? [
          candidate(
            'waiting run cannot read it',
            version.loop.name,
            run,
            'lost',
            `the run waits for a reply, but ${reading.ok ? '' : reading.reason}`,
          ),
        ]
      : [];
  const startable = heard.map((cue) => ({ cue, version: world.version(cue.loopId, cue.version) }));
  const best = startable.find((each) => each.version !== null);
  if (best?.version) {
    const candidates = [
      cueCandidate(
        best.cue,
        'won',
        `“${best.cue.keyword}” was heard ${best.cue.match === 'exactly' ? 'exactly' : `as ${best.cue.match === 'first word' ? 'the first word' : 'a whole word'}`}`,
      ),
      ...startable.filter((each) => each !== best).map((each) => cueCandidate(each.cue, 'lost', whyPreferred(best.cue, each.cue))),
      ...unread,
    ];
    const replaced = replace(world);
    const started = startRun(best.version, world, world.person, world.newRunId, best.cue.cueId);
    const note: Note = { code: 'cue heard', loop: best.cue.loopName, keyword: best.cue.keyword, match: best.cue.match };
    return answered({ candidates }, replaced.runs, started, [note, ...replaced.notes]);
  }

  if (run && version && reading && !reading.ok) {
    const moved = retryOrExit(version, world, world.person, run, reading.reason);
    if (moved) return answered({ candidates: [{ ...unread[0]!, outcome: 'won' }] }, [], moved);
    unread[0]!.reason += ', and the step has no retry and no exit for that';
  }
  return nobody(world, unread, heard.length === 0 ? 'no cue hears this, and no run can read it' : 'the loops that hear this are gone');
}

function answered(decision: Decision | null, runsBefore: Run[], moved: Moved, notesBefore: Note[] = []): Response {
  return {
    decision,
    runs: [...runsBefore, moved.run],
    person: moved.person,
    effects: moved.effects,
    notes: [...notesBefore, ...moved.notes],
    shelf: moved.run.status === 'under way' ? 'running' : moved.run.status === 'stopped' ? 'waiting on us' : 'settled',
  };
}

function nobody(world: World, losers: Candidate[], reason: string): Response {
  const won: Candidate = { place: 'nobody', who: 'nobody', loopId: null, cueId: null, outcome: 'won', reason };
  return {
    decision: { candidates: [won, ...losers] },
    runs: [],
    person: world.person,
    effects: [],
    notes: [{ code: 'nobody', reason }],
    shelf: 'waiting on us',
  };
}

/** A run under way gives way to the one that starts. */
function replace(world: World): { runs: Run[]; notes: Note[] } {
  if (!world.run) return { runs: [], notes: [] };
  const loop = world.version(world.run.loopId, world.run.version)?.loop.name ?? 'a loop';
  return { runs: [{ ...world.run, status: 'replaced', at: null, turn: world.run.turn + 1 }], notes: [{ code: 'run replaced', loop }] };
}

function candidate(place: Place, who: string, run: Run, outcome: 'won' | 'lost', reason: string): Candidate {
  return { place, who, loopId: run.loopId, cueId: run.cueId, outcome, reason };
}

function cueCandidate(cue: HeardCue, outcome: 'won' | 'lost', reason: string): Candidate {
  return { place: 'keyword cue', who: cue.loopName, loopId: cue.loopId, cueId: cue.cueId, outcome, reason };
}
