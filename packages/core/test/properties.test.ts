import fc from 'fast-check';
import { CHANNEL_KINDS, findingsOf, respond, type Incoming, type Response } from '../src';
import { readLoopFile, writeLoopFile } from '../src/loops/file/loopFile';
import {
  deliver,
  openRehearsal,
  play,
  wind,
  type Played,
  type Rehearsal,
} from '../src/engine/rehearsal/rehearsal';
import { anyLoop, anyLoops, happenings, type Happening } from './arbitraries';
import { Conversation, FERRIES, NINE, nobodyYet } from './support';
import { times } from './thorough';

const open = (loops: Parameters<typeof openRehearsal>[0]['loops'], channel: 'telegram' | 'sms') =>
  openRehearsal({
    loops,
    client: FERRIES,
    line: { key: channel, name: 'x', channel },
    person: nobodyYet,
    now: NINE,
  });

function happen(rehearsal: Rehearsal, what: Happening, id: string | null = null): Played {
  if ('winds' in what) return wind(rehearsal, what.winds);
  if ('delivers' in what)
    return (
      deliver(rehearsal, { ok: what.delivers, reason: 'refused', body: { id: 1 } }) ?? {
        rehearsal,
        entries: [],
        responses: [],
      }
    );
  if ('does' in what) return play(rehearsal, what.does, null, id);
  const choice = rehearsal.offered[what.taps % Math.max(1, rehearsal.offered.length)];
  return choice
    ? play(rehearsal, { kind: 'tap', ...choice.ref, label: choice.label }, null, id)
    : { rehearsal, entries: [], responses: [] };
}

const channel = fc.constantFrom('telegram' as const, 'sms' as const);
const RUNS = { numRuns: times(100, 1_000) };

test('whatever the loops and whatever happens: one winner each, one run at a time speaks with the person, and it always ends', () => {
  fc.assert(
    fc.property(anyLoops, channel, happenings, (loops, on, all) => {
      let rehearsal = open(loops, on);
      for (const what of all) {
        const played = happen(rehearsal, what);
        rehearsal = played.rehearsal;
        // Whatever the person does is decided: no event is lost.
        if (
          'taps' in what
            ? played.responses.length > 0
            : 'does' in what && ['text', 'reference', 'file', 'other'].includes(what.does.kind)
        )
          expect(played.responses[0]!.decision).not.toBeNull();
        for (const { decision } of played.responses)
          if (decision)
            expect(decision.candidates.filter((candidate) => candidate.outcome === 'won')).toHaveLength(1);
        const underWay = rehearsal.runs.filter((run) => run.status === 'under way');
        expect(
          underWay.filter((run) => run.at?.for === 'reply' || run.at?.for === 'person').length,
        ).toBeLessThanOrEqual(1);
        expect(underWay.every((run) => run.at !== null)).toBe(true);
        expect(rehearsal.runs.every((run) => run.status === 'under way' || run.at === null)).toBe(true);
      }
    }),
    RUNS,
  );
});

test('nothing is said after an opt-out but its one confirmation, until the person opts in again', () => {
  const said = (responses: Response[]) =>
    responses.flatMap((response) => response.effects.filter((effect) => effect.kind === 'send'));
  fc.assert(
    fc.property(anyLoops, channel, happenings, happenings, (loops, on, before, after) => {
      let rehearsal = open(loops, on);
      for (const what of before) rehearsal = happen(rehearsal, what).rehearsal;
      const was = rehearsal.standing.optedOut;
      const stopped = play(rehearsal, { kind: 'text', text: 'STOP' });
      expect(said(stopped.responses)).toHaveLength(was ? 0 : 1);
      rehearsal = stopped.rehearsal;
      expect(rehearsal.runs.filter((run) => run.status === 'under way')).toEqual([]);
      for (const what of after) {
        if ('does' in what && what.does.kind === 'text' && what.does.text === 'start') continue;
        const played = happen(rehearsal, what);
        expect(said(played.responses)).toEqual([]);
        rehearsal = played.rehearsal;
      }
    }),
    RUNS,
  );
});

test('the same world gives the same answer, and is not changed by it', () => {
  fc.assert(
    fc.property(
      anyLoops,
      happenings,
      fc.constantFrom<Incoming>(
        { kind: 'text', text: 'boat' },
        { kind: 'text', text: '3' },
        { kind: 'webhook', hook: 'ship', name: 'ship' },
        { kind: 'write', by: 'Ines', text: 'x' },
      ),
      (loops, before, last) => {
        const talk = new Conversation(loops);
        for (const what of before) talk.rehearsal = happen(talk.rehearsal, what).rehearsal;
        const world = talk.world(last);
        const { version: _version, liveLoop: _liveLoop, cues: _cues, ...plain } = world;
        const copy = JSON.stringify(plain);
        expect(respond(world, last)).toEqual(respond(world, last));
        expect(JSON.stringify(plain)).toBe(copy);
      },
    ),
    RUNS,
  );
});

test('playing the log of events again, with every event delivered twice, rebuilds the same state', () => {
  fc.assert(
    fc.property(anyLoops, channel, happenings, (loops, on, all) => {
      const id = (what: Happening, at: number) =>
        'does' in what && ['text', 'reference', 'file', 'other'].includes(what.does.kind)
          ? `event-${at}`
          : null;
      let first = open(loops, on);
      for (const [at, what] of all.entries()) first = happen(first, what, id(what, at)).rehearsal;
      let again = open(loops, on);
      for (const [at, what] of all.entries()) {
        again = happen(again, what, id(what, at)).rehearsal;
        if (id(what, at)) {
          const repeated = happen(again, what, id(what, at));
          expect(repeated.responses[0]!.decision!.candidates[0]!.place).toBe('repeated delivery');
          // Ids are handed out by count; the repeat must not use one up for what follows.
          again = { ...repeated.rehearsal, events: again.events };
        }
      }
      expect(again).toEqual(first);
    }),
    RUNS,
  );
});

test('export, import, export gives the same bytes for loops of every kind, and checking them never fails', () => {
  fc.assert(
    fc.property(anyLoop, fc.constantFrom('yaml' as const, 'json' as const), (loop, as) => {
      const once = writeLoopFile(loop, as);
      const read = readLoopFile(once);
      if (!read.ok) throw new Error(JSON.stringify(read.problems));
      expect(writeLoopFile(read.loop, as)).toBe(once);
      const lines = CHANNEL_KINDS.map((channel) => ({ key: channel, channel }));
      for (const finding of findingsOf(read.loop, { lines })) expect(finding.reason).toMatch(/[.?]$/);
    }),
    RUNS,
  );
});
