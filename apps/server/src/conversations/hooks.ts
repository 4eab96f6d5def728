import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Logger } from 'pino';
import type { Adapters } from '../channels';
import { requestIdOf } from '../platform/requestId';
import type { MessagePath } from './path';
import { Overloaded } from './receive';

const PATH = /^\/hooks\/([A-Za-z0-9_-]{43})\/?$/;
const MOST_BYTES = 1_000_000;
const SAID_EVERY_MS = 10_000;
/** How long the body of a request is waited for. */
const PATIENCE_MS = 20_000;

export function isHook(request: IncomingMessage): boolean {
  return request.url?.startsWith('/hooks/') ?? false;
}

/**
 * The webhooks of all channels. In front of Express, on plain HTTP: it is the busiest route and needs nothing
 * of it. 401 and nothing stored when the request is not the platform's; 200 only after the events are
 * durable.
 */
export function hookHandler(path: MessagePath, adapters: Adapters, log: Logger) {
  const unsigned = new Unsigned(log);
  return async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const answer = (status: number, words = '') => {
      if (response.headersSent) return;
      response.writeHead(status, {
        'content-type': 'text/plain',
        ...(status === 503 && { 'retry-after': '1' }),
      });
      response.end(words);
    };
    try {
      const token = PATH.exec((request.url ?? '').split('?')[0]!)?.[1];
      if ((request.method !== 'POST' && request.method !== 'GET') || !token)
        return answer(404, 'There is no such webhook.');
      if (request.method === 'GET') {
        // Asked while a line is being connected, before it is written down: the right word is known from the
        // address alone.
        const query = new URL(request.url!, 'http://here').searchParams;
        if (!query.has('hub.mode')) return answer(404, 'There is no such webhook.');
        const challenge = adapters.challenge(query, token);
        return challenge ? answer(200, challenge) : answer(403, 'The verify token is missing or wrong.');
      }
      const body = await readBody(request);
      if (!body) return answer(413, 'The body is larger than 1,000,000 bytes.');
      const line = await path.lines.byHook(token);
      if (!line) return answer(404, 'There is no such webhook.');
      const adapter = adapters.of(line);
      const hookRequest = {
        header: (name: string) => {
          const value = request.headers[name];
          return Array.isArray(value) ? value[0] : value;
        },
        body,
      };
      if (!adapter.verify(hookRequest, line)) {
        unsigned.count(line.id);
        return answer(401, 'The signature or secret is missing or wrong.');
      }
      const reading = adapter.read(hookRequest, line);
      await path.store(line, reading);
      for (const accountId of reading.others ?? []) {
        const other = await path.lines.beside(line, accountId);
        if (other) await path.store(other, adapter.read(hookRequest, other));
        else
          await path.store(line, {
            received: [],
            aside: [
              {
                reason: `it is for the account ${accountId}, which no line here is connected to`,
                body: body.toString('utf8'),
              },
            ],
          });
      }
      answer(200, 'ok');
      for (const task of reading.afterwards ?? []) void task().catch(() => undefined);
    } catch (error) {
      if (error instanceof Overloaded) return answer(503, 'Too much is waiting; send it again shortly.');
      log.error(
        { request: requestIdOf(response), error: (error as Error).message },
        'a webhook request could not be stored',
      );
      answer(500, 'It could not be stored; send it again.');
    }
  };
}

/**
 * Requests that were not signed as they should be: said once for each line in a while, with their number, as
 * somebody may send thousands a second.
 */
class Unsigned {
  #counts = new Map<number, number>();
  #timer: NodeJS.Timeout | null = null;
  constructor(private readonly log: Logger) {}

  count(lineId: number): void {
    this.#counts.set(lineId, (this.#counts.get(lineId) ?? 0) + 1);
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      for (const [line, count] of this.#counts)
        this.log.warn({ line, count }, 'webhook requests were not signed as they should be');
      this.#counts.clear();
    }, SAID_EVERY_MS).unref();
  }
}

/** The raw body, or null when it is too large; the rest of such a body is not read. */
function readBody(request: IncomingMessage): Promise<Buffer | null> {
  return new Promise((resolve, reject) => {
    const pieces: Buffer[] = [];
    let size = 0;
    request.on('data', (piece: Buffer) => {
      size += piece.length;
      if (size > MOST_BYTES) {
        request.pause();
        resolve(null);
        return;
      }
      pieces.push(piece);
    });
    request.on('end', () => resolve(pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces)));
    request.on('error', reject);
    // Whoever sends half a body is not waited for.
    request.setTimeout(PATIENCE_MS, () => request.destroy(new Error('the body did not come in time')));
  });
}
