import { askOutside, type Outside } from '../platform/outside';

/** How we name ourselves to sites; robots.txt may speak of it. */
export const AGENT = 'DartLoop';
const MOST_BYTES = 3_000_000;
const MOST_REDIRECTS = 5;

/** What came of asking for a page. */
export type Fetched =
  | { kind: 'page'; address: string; type: string; bytes: Buffer }
  /** It is not there any more. */
  | { kind: 'gone'; reason: string }
  /** It could not be had now. */
  | { kind: 'failed'; reason: string };

/**
 * Gets a page, through the guard for outgoing calls at each redirect. `address` of what comes back: where it
 * ended.
 */
export async function fetchPage(outside: Outside, address: string): Promise<Fetched> {
  let at = address;
  for (let redirects = 0; redirects <= MOST_REDIRECTS; redirects++) {
    const answer = await askOutside(outside, {
      ...{ method: 'GET' as const, address: at, body: undefined, bytes: MOST_BYTES },
      headers: {
        'user-agent': `${AGENT}/1.0 (reads for answers)`,
        accept: 'text/html, text/plain, text/markdown, application/pdf;q=0.8, */*;q=0.1',
        // Nothing packed: a small answer must not become a large one.
        'accept-encoding': 'identity',
      },
    });
    if (answer.kind === 'silence') return { kind: 'failed', reason: answer.reason };
    const { status, headers } = answer;
    if (status >= 300 && status < 400 && headers.location) {
      const leadsTo = URL.canParse(headers.location, at) ? new URL(headers.location, at).href : null;
      if (leadsTo === null) return { kind: 'failed', reason: 'it leads on to what is no address' };
      at = leadsTo;
      continue;
    }
    if (status === 404 || status === 410) return { kind: 'gone', reason: `it is not there (${status})` };
    if (status !== 200) return { kind: 'failed', reason: `it was answered ${status}` };
    if (headers['content-encoding'] && headers['content-encoding'] !== 'identity')
      return { kind: 'failed', reason: 'it was sent packed, though that was not asked for' };
    const type = (headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
    return { kind: 'page', address: at, type, bytes: answer.body as Buffer };
  }
  return { kind: 'failed', reason: `it leads on to other addresses more than ${MOST_REDIRECTS} times` };
}
