import type { RequestHandler } from 'express';
import { rateLimit, type Options } from 'express-rate-limit';
import { isTooDeep } from '../db/json';
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

/** Bodies that stand too deep within each other are refused before anything walks through them. */
export const refuseTooDeep: RequestHandler = (request, _response, next) => {
  if (isTooDeep(request.body)) throw new Problem(400, 'That cannot be used', 'The body is nested more than 100 levels deep.');
  next();
};
