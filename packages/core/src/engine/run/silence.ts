import { durationMs, type Reminder, type WaitingParts } from '../../loops/model/basics';
import { findStep, type LoopVersion } from '../../loops/model/loop';
import { kindOf, waitingOf, type Step } from '../steps';
import type { Run } from './run';
import type { Turn } from './turn';

const HOUR = 3_600_000;

/**
 * Its time has come: no reply, a wait that is over, a hand-over that nobody took. False when the timer is
 * stale.
 */
export function timeOut(turn: Turn, run: Run, waited: number): boolean {
  const version = turn.runs.versionOf(run);
  const place = version && run.at ? findStep(version.loop, run.at.step) : null;
  if (!version || !place || run.status !== 'under way' || run.turn !== waited || !run.at) return false;
  const { step } = place;
  if (run.at.for === 'time') {
    // After a real wait the chain of loops that started each other is at its end.
    const fresh = turn.world.now - run.at.since >= HOUR ? { ...run, depth: 0 } : run;
    turn.runs.keep(fresh);
    turn.note({ code: 'waited' });
    turn.playing.proceed(run.id, version, step.id, () => ({ kind: 'go', to: 'next' }));
    return true;
  }
  if (run.at.for === 'person' && step.kind === 'hand over' && step.giveUp) {
    const { after, to } = step.giveUp;
    turn.standing.held = null;
    turn.playing.lead(run, to, (where) => ({ code: 'hand-over given up', after, to: where }));
    return true;
  }
  const waiting = run.at.for === 'reply' ? waitingOf(step) : null;
  const reminder = waiting?.reminders?.[run.at.reminded ?? 0];
  if (reminder) {
    remind(turn, run, version, step, reminder);
    return true;
  }
  const noReply = waiting?.noReply;
  if (!noReply) return false;
  turn.playing.lead(run, noReply.to, (to) => ({ code: 'no reply', after: noReply.after, to }));
  return true;
}

/** Says the next reminder, with what can be tapped, and waits on; left out where it may not be said. */
function remind(
  turn: Turn,
  run: Run,
  version: LoopVersion,
  step: Step,
  { after, text, variants }: Reminder,
): void {
  const { since, aside, from, reminded = 0 } = run.at!;
  const words = variants?.[turn.language] ?? text;
  turn.note({
    code: 'reminded',
    after,
    nth: reminded + 1,
    of: waitingOf(step)!.reminders!.length,
  });
  turn.playing.proceed(
    run.id,
    version,
    step.id,
    (play) => {
      play.say(words, kindOf(step).choices?.(step, play.world, aside ?? null), {
        whenShut: { do: 'drop' },
      });
      return {
        kind: 'wait',
        for: 'reply',
        since,
        reminded: reminded + 1,
        ...(aside && { aside }),
        ...(from && { from }),
      };
    },
    false,
    run.tries,
  );
}

/** When a silence is over (ms): at the next reminder, else at the exit for no reply; null for neither. */
export function silenceOver(
  waiting: WaitingParts | null,
  { since, reminded = 0 }: { since?: number; reminded?: number },
  now: number,
): number | null {
  const after = waiting?.reminders?.[reminded]?.after ?? waiting?.noReply?.after;
  return after === undefined ? null : Math.max(now, (since ?? now) + durationMs(after));
}
