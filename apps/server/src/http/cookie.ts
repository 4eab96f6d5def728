import type { Request } from 'express';

export const COOKIE = 'dartloop_session';

/** The token of the session that a request comes with; null where it has none. */
export function cookieOf(request: Request): string | null {
  const found = new RegExp(`(?:^|;\\s*)${COOKIE}=([A-Za-z0-9_-]{43})(?:;|$)`).exec(
    request.headers.cookie ?? '',
  );
  return found?.[1] ?? null;
}
