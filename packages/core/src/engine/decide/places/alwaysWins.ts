import { begin, cueCandidate, placeOfCue, runCandidate } from '../response';
import type { Taker } from './asking';

/** Place 5: a cue that always wins. */
export const alwaysWins: Taker = (asking) => {
  const { turn, free, run, reading } = asking;
  const always = free.find((each) => each.cue.kind === 'keyword' && each.cue.alwaysWins);
  if (!always) return null;
  const lost = [
    ...free
      .filter((each) => each !== always)
      .map((each) =>
        cueCandidate(each, placeOfCue(each), 'lost', `“${always.loopName}” has a cue that always wins`),
      ),
    ...asking.barred,
    ...asking.outpaced,
  ];
  if (run && reading?.ok) {
    const reason = 'a cue that always wins goes before a run that waits';
    lost.unshift(runCandidate(turn, run, 'waiting run can read it', 'lost', reason));
  }
  return begin(turn, always, 'cue that always wins', lost);
};
