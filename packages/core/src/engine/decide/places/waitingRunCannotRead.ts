import { finished, runCandidate } from '../response';
import type { Taker } from './asking';

/** Place 8: a run that waits and cannot read it; it asks again, or leaves by the exit for that. */
export const waitingRunCannotRead: Taker = (asking) => {
  const { turn, run, reading, shownLate } = asking;
  if (shownLate) {
    const loop = turn.world.version(shownLate.loopId, shownLate.version)?.loop.name ?? 'a loop';
    turn.note({ code: 'question unseen', loop });
    const reason = 'what it asks was held back and is only shown now';
    const winner = runCandidate(turn, shownLate, 'waiting run cannot read it', 'won', reason);
    return finished(turn, { candidates: [winner, ...asking.barred, ...asking.outpaced] });
  }
  if (run && reading && !reading.ok && turn.replies.answersUnread(run)) {
    const winner = asking.unread('won');
    turn.replies.retryOrExit(run, reading);
    return finished(turn, { candidates: [...winner, ...asking.barred, ...asking.outpaced] });
  }
  const noExit = run && reading ? ', and the step has no retry and no exit for that' : '';
  asking.passed.push(...asking.barred, ...asking.unread('lost', noExit));
  return null;
};
