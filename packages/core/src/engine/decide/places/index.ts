import { nobody, type Response } from '../response';
import { alwaysWins } from './alwaysWins';
import type { Asking, Taker } from './asking';
import { consentWords } from './consentWords';
import { cueHears } from './cueHears';
import { fallback, firstMessage } from './lastly';
import { listWords } from './listWords';
import { tappedChoice } from './tappedChoice';
import { teamHasIt } from './teamHasIt';
import { waitingRunCannotRead } from './waitingRunCannotRead';
import { moreChoices, waitingRunReads } from './waitingRunReads';

/**
 * Places 2 to 11, in their order; 1, a repeated delivery, is seen before anybody is asked. Place 10, the
 * understudy, comes with its sources.
 */
const PLACES: readonly Taker[] = [
  listWords,
  consentWords,
  teamHasIt,
  tappedChoice,
  alwaysWins,
  moreChoices,
  waitingRunReads,
  cueHears,
  waitingRunCannotRead,
  firstMessage,
  fallback,
];

/** Asks one place after the other; whom none answers is place 12's: nobody's. */
export function askPlaces(asking: Asking): Response {
  for (const place of PLACES) {
    const response = place(asking);
    if (response) return response;
  }
  return nobody(asking.turn, asking.passed, whyNobody(asking));
}

function whyNobody({ incoming, heard }: Asking): string {
  if (incoming.kind === 'other') return `a ${incoming.what} cannot be read by any loop`;
  return heard.length === 0
    ? 'no cue hears this, and no run can read it'
    : 'the cues that hear this may not start now';
}

export { Asking } from './asking';
