import { Agent, request } from 'node:http';

const agent = new Agent({ keepAlive: true, maxSockets: 128 });
/** The pauses between tries; from the last on they stay as they are. */
const PAUSES_MS = [200, 500, 1_000, 2_000, 4_000, 8_000];
/** Platforms go on for hours; nobody waits that long here. */
const GIVES_UP_MS = 5 * 60_000;

/** One POST to a webhook. Gives the status, or 0 when nothing answered. */
export function post(url: string, headers: Record<string, string>, body: string): Promise<number> {
  return new Promise((resolve) => {
    const sending = request(
      url,
      {
        method: 'POST',
        agent,
        headers: { ...headers, 'content-length': Buffer.byteLength(body) },
        timeout: 20_000,
      },
      (response) => {
        response.resume();
        response.on('end', () => resolve(response.statusCode ?? 0));
        response.on('error', () => resolve(0));
      },
    );
    sending.on('timeout', () => sending.destroy());
    sending.on('error', () => resolve(0));
    sending.end(body);
  });
}

/**
 * Delivers as platforms do: again and again until a 200, giving up after a while. Resolves with whether it
 * was taken.
 */
export async function deliver(
  url: string,
  headers: Record<string, string>,
  body: string,
  /** Told of each try that was not taken, with its status; 0 when nothing answered. */
  failed: (status: number) => void = () => undefined,
): Promise<boolean> {
  const start = Date.now();
  for (let tries = 0; ; tries++) {
    const status = await post(url, headers, body);
    if (status === 200) return true;
    failed(status);
    if (Date.now() - start > GIVES_UP_MS) return false;
    const pause = PAUSES_MS[Math.min(tries, PAUSES_MS.length - 1)];
    // What was only waited for holds no process open.
    await new Promise((resolve) => setTimeout(resolve, pause).unref());
  }
}
