import type { RequestHandler } from 'express';
import { rateLimit, type Options } from 'express-rate-limit';
import { Problem } from './problem';

/** So many calls in a minute, of each address unless `more` says otherwise; whoever calls oftener is told to wait. */
export const aMinute = (limit: number, more: Partial<Pick<Options, 'keyGenerator' | 'skip'>> = {}): RequestHandler =>
  rateLimit({
    windowMs: 60_000,
    limit,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_request, response) =>
      void response
        .status(429)
        .type('application/problem+json')
        .json(new Problem(429, 'Too many requests', 'Too many requests came from here. Wait a minute and go on.').body()),
    ...more,
  });
