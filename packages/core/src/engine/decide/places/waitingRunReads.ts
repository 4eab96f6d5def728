import { isCancelWord } from '../../../consent/words';
import type { Candidate } from '../decision';
import { cueCandidate, finished, placeOfCue, runCandidate } from '../response';
import type { Asking, Taker } from './asking';

/** Place 6: somebody who wants to see more choices is answered by them. */
export const moreChoices: Taker = (asking) => {
  const { turn, run, text } = asking;
  const more = run && text !== null ? turn.replies.moreAsked(run, text) : null;
  if (!run?.at || more === null || !turn.replies.showFrom(run, run.at.step, more)) return null;
  const reason = 'the run waits for a choice, and further ones are asked for';
  const winner = runCandidate(turn, run, 'waiting run can read it', 'won', reason);
  return finished(turn, { candidates: [winner, ...lostToRun(asking)] });
};

/**
 * Place 6: a run that waits and can read it. Words that call off have their own exit, where the step has one.
 */
export const waitingRunReads: Taker = (asking) => {
  const { turn, run, reply, reading, text } = asking;
  if (!run || !reply || asking.yields) return null;
  const calledOff = text !== null && isCancelWord(text) ? turn.replies.calledOff(run) : null;
  const gathers = calledOff === null && reply.kind === 'text' ? turn.replies.gathersFor(run) : null;
  const isPart = gathers !== null && !reading?.ok && run.gathered.length > 0;
  const summary =
    calledOff !== null
      ? 'words that call it off'
      : isPart
        ? 'a part of the answer'
        : reading?.ok
          ? reading.summary
          : null;
  if (summary === null) return null;
  const reason = `the run waits for a reply and can read this as ${summary}`;
  const winner = runCandidate(turn, run, 'waiting run can read it', 'won', reason);
  const candidates = [winner, ...lostToRun(asking)];
  if (calledOff !== null) turn.replies.callOff(run, calledOff);
  else if (reading?.ok) turn.replies.take(run, reply, reading);
  else if (reply.kind === 'text') turn.replies.gather(run, reply.text, gathers!);
  return finished(turn, { candidates });
};

const lostToRun = ({ free, barred, outpaced }: Asking): Candidate[] => [
  ...free.map((each) =>
    cueCandidate(each, placeOfCue(each), 'lost', 'a run that waits and can read the reply goes before cues'),
  ),
  ...barred,
  ...outpaced,
];
