import { begin, cueCandidate } from '../response';
import { whyNotNow } from '../whyNotNow';
import type { Asking, Taker } from './asking';

/** Place 9: the first message ever. */
export const firstMessage: Taker = (asking) => takenBy(asking, 'first message');

/** Place 11: what nothing else takes. */
export const fallback: Taker = (asking) => takenBy(asking, 'fallback');

function takenBy(asking: Asking, place: 'first message' | 'fallback') {
  const { turn, passed } = asking;
  const found = asking.lastly(place).map((each) => ({ heard: each, whyNot: whyNotNow(turn, each) }));
  const taker = found.find((each) => each.whyNot === null);
  const losers = found
    .filter((each) => each !== taker)
    .map((each) =>
      cueCandidate(each.heard, place, 'lost', each.whyNot ?? 'it stands later in the client’s own order'),
    );
  if (taker) return begin(turn, taker.heard, place, [...passed, ...losers], { beside: place === 'fallback' });
  passed.push(...losers);
  return null;
}
