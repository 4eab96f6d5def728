import type { Response } from 'express';

/** How a stand-in answers: the switch that tests and the curious turn. */
export const MOODS = [
  'well',
  '401',
  '403',
  '429',
  '500',
  'garbage',
  'slow',
  'silent',
  // Of the three Graph-style platforms alone: what goes wrong with an account rather than with a call.
  'blocked',
  'no access',
  'untied',
  'unregistered',
  'not subscribed',
] as const;
export type Mood = (typeof MOODS)[number];

/** Time as the stand-ins see it; the demo's loading winds it, otherwise it is the wall clock. */
export class StandinClock {
  #wound: number | null = null;
  now(): number {
    return this.#wound ?? Date.now();
  }
  wind(to: number | null): void {
    this.#wound = to;
  }
}

/** Counts what came within the last second (or other window), as a platform that limits rates does. */
export class RateLimit {
  #times: number[] = [];
  constructor(
    private readonly most: number,
    private readonly windowMs = 1_000,
  ) {}
  /** Whether one more is within the limit; if so it is counted. */
  take(now: number): boolean {
    while (this.#times.length > 0 && this.#times[0]! <= now - this.windowMs) this.#times.shift();
    if (this.#times.length >= this.most) return false;
    this.#times.push(now);
    return true;
  }
}

/** How a platform words the refusals that a mood can bring. */
export type Refusals = Record<'401' | '403' | '429' | '500', () => unknown> & { blocked?: () => unknown };

/** Answers in the mood; false when it is well and the request is to be served. */
export async function inMood(mood: Mood, response: Response, refusals: Refusals): Promise<boolean> {
  switch (mood) {
    case 'well':
      return false;
    case 'slow':
      await new Promise((resolve) => setTimeout(resolve, 3_000));
      return false;
    case 'garbage':
      response.type('text/html').send('<html>not what you expected');
      return true;
    case 'silent':
      return true;
    case 'no access':
    case 'untied':
    case 'unregistered':
    case 'not subscribed':
      return false;
    default:
      refusals[mood]?.();
      return refusals[mood] !== undefined;
  }
}
