import { whyPreferred } from '../cueIndex';
import { begin, cueCandidate, placeOfCue } from '../response';
import type { Taker } from './asking';

/** Place 7: links, ads, the menu, keywords. */
export const cueHears: Taker = (asking) => {
  const [best, ...others] = asking.free;
  if (!best) return null;
  return begin(asking.turn, best, placeOfCue(best), [
    ...others.map((each) => cueCandidate(each, placeOfCue(each), 'lost', whyPreferred(best, each))),
    ...asking.barred,
    ...asking.unread('lost', ', and a cue hears it'),
    ...asking.outpaced,
  ]);
};
