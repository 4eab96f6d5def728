import type { IncomingMessage, ServerResponse } from 'node:http';
import { randomUUID } from 'node:crypto';

const HEADER = 'x-request-id';
/** One that a proxy gave it. Anything else is not written into a log. */
const FITTING = /^[\w.-]{8,64}$/;

/**
 * Gives a request its name, the proxy's where there is one: it goes back with the answer, and stands in the
 * log beside what went wrong.
 */
export function nameRequest(request: IncomingMessage, response: ServerResponse): void {
  const given = request.headers[HEADER];
  response.setHeader(HEADER, typeof given === 'string' && FITTING.test(given) ? given : randomUUID());
}

/** The name of the request that a response belongs to. */
export const requestIdOf = (response: ServerResponse): string => String(response.getHeader(HEADER) ?? '');
