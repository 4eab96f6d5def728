/** One outgoing call of an adapter: JSON out, JSON in, with a bound on time and size. */
export type Answer = { kind: 'answer'; status: number; headers: Headers; body: unknown } | { kind: 'silence'; reason: string };

const MOST_BYTES = 1_000_000;
const PATIENCE_MS = 15_000;

/** Posts JSON and reads what comes back. A platform that is slow, unreachable or does not answer in JSON gives `silence` or an empty body, never an exception. */
export async function askPlatform(
  url: string,
  body: unknown,
  headers: Record<string, string> = {},
  patienceMs = PATIENCE_MS,
): Promise<Answer> {
  try {
    const response = await fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: JSON.stringify(body),
      redirect: 'error',
      signal: AbortSignal.timeout(patienceMs),
    });
    const text = await response.text();
    let parsed: unknown = null;
    if (text.length <= MOST_BYTES) {
      try {
        parsed = JSON.parse(text);
      } catch {
        // Not JSON: the status alone speaks.
      }
    }
    return { kind: 'answer', status: response.status, headers: response.headers, body: parsed };
  } catch (error) {
    const timedOut = error instanceof DOMException && error.name === 'TimeoutError';
    return { kind: 'silence', reason: timedOut ? `it did not answer within ${patienceMs / 1_000} s` : 'it could not be reached' };
  }
}
