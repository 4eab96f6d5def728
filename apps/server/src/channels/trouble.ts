import type { Failure, Sent } from './adapter';
import type { Answer } from '../platform/ask';

type NotSent = Exclude<Sent, { kind: 'sent' }>;

/** Try again later, the whole line waiting meanwhile: it is at fault, and says so until it is well. */
export function holdLine(failure: Failure): NotSent {
  return { kind: 'again', holds: 'line', afterMs: null, lineFails: true, failure };
}

/** Again after `afterMs`, the whole line waiting meanwhile: it was too fast, and nothing else is wrong. */
export function slowDown(failure: Failure, afterMs: number | null = null): NotSent {
  return {
    kind: 'again',
    holds: 'line',
    afterMs,
    lineFails: false,
    failure: { ...failure, onlyTooFast: true },
  };
}

/** Try again later, the conversation alone waiting meanwhile. */
export function holdConversation(failure: Failure): NotSent {
  return { kind: 'again', holds: 'conversation', afterMs: null, lineFails: false, failure };
}

export function giveUp(failure: Failure): NotSent {
  return { kind: 'failed', failure };
}

const WAIT = 'Nothing to do: it is tried again with growing pauses.';

/**
 * What means the same on every platform: silence, a fault of its own, and an answer that cannot be read,
 * which somebody on the way has given. Null when the answer is the platform's own and has to be looked at.
 */
export function commonTrouble(
  platform: string,
  answer: Answer,
  readable: boolean,
  said: string,
): NotSent | null {
  if (answer.kind === 'silence')
    return holdLine({
      code: 'silence',
      reason: `${platform} was asked, but ${answer.reason}.`,
      remedy: WAIT,
    });
  if (answer.status >= 500)
    return holdLine({
      code: String(answer.status),
      reason: `${platform} has a fault of its own (${answer.status}).${said}`,
      remedy: WAIT,
    });
  if (answer.status === 429 && !readable)
    return slowDown({
      code: '429',
      reason: `The line sends faster than ${platform} allows.`,
      remedy: WAIT,
    });
  if (!readable)
    return holdLine({
      code: 'unreadable',
      reason: `${platform} answered in a way that cannot be read (${answer.status}).`,
      remedy: WAIT,
    });
  return null;
}

/** What a platform said, as a sentence that follows ours. */
export const quoted = (who: string, said: string): string =>
  ` ${who} says: “${said.trim().replace(/\.$/, '')}”.`;
