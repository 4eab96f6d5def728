import { Agent, request } from 'node:http';

const agent = new Agent({ keepAlive: true, maxSockets: 128 });
const PAUSES_MS = [200, 500, 1_000, 2_000, 4_000, 8_000, 8_000, 8_000];

/** One POST to a webhook. Gives the status, or 0 when nothing answered. */
export function post(url: string, headers: Record<string, string>, body: string): Promise<number> {
  return new Promise((resolve) => {
    const sending = request(
      url,
      { method: 'POST', agent, headers: { ...headers, 'content-length': Buffer.byteLength(body) }, timeout: 20_000 },
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

/** Delivers as platforms do: again and again until a 200, giving up after a while. Resolves with whether it was taken. */
export async function deliver(url: string, headers: Record<string, string>, body: string): Promise<boolean> {
  for (let tries = 0; ; tries++) {
    if ((await post(url, headers, body)) === 200) return true;
    const pause = PAUSES_MS[tries];
    if (pause === undefined) return false;
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
}
