import {
  createServer,
  request as ask,
  type IncomingMessage,
  type OutgoingHttpHeaders,
  type ServerResponse,
} from 'node:http';

/** How often one request is handed on before it is given up. */
const TRIES = 40;
const PAUSE_MS = 100;

/** A proxy before several servers of this machine. */
export interface Proxy {
  stop(): Promise<void>;
}

/**
 * Listens at `port` and hands each request to the servers in turn. One that does not answer is passed over,
 * as proxies are set up to do; an answer that has begun is passed on as it comes, event streams too.
 */
export async function startProxy(port: number, servers: readonly number[]): Promise<Proxy> {
  let turn = 0;
  const hand = async (incoming: IncomingMessage, outgoing: ServerResponse): Promise<void> => {
    const parts: Buffer[] = [];
    for await (const part of incoming) parts.push(part as Buffer);
    const body = Buffer.concat(parts);
    const headers: OutgoingHttpHeaders = { ...incoming.headers, 'content-length': body.length };
    const first = turn++;
    for (let tries = 0; tries < TRIES && !outgoing.destroyed; tries++) {
      const to = servers[(first + tries) % servers.length]!;
      const answer = await answerOf(to, incoming, headers, body);
      if (answer) return pass(answer, outgoing);
      if (tries >= servers.length) await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    }
    outgoing.writeHead(502).end();
  };
  const proxy = createServer((incoming, outgoing) => {
    // Whoever asked has gone.
    hand(incoming, outgoing).catch(() => outgoing.destroy());
  });
  await new Promise<void>((resolve, reject) => {
    proxy.once('error', reject);
    proxy.listen(port, '127.0.0.1', resolve);
  });
  return {
    stop() {
      const closed = new Promise<void>((resolve) => proxy.close(() => resolve()));
      proxy.closeAllConnections();
      return closed;
    },
  };
}

/** What one server answers, once it has begun to; null where it does not. */
function answerOf(
  port: number,
  { url, method }: IncomingMessage,
  headers: OutgoingHttpHeaders,
  body: Buffer,
): Promise<IncomingMessage | null> {
  return new Promise((resolve) => {
    const outward = ask({ host: '127.0.0.1', port, path: url, method, headers }, resolve);
    outward.once('error', () => resolve(null));
    outward.end(body);
  });
}

function pass(answer: IncomingMessage, outgoing: ServerResponse): void {
  outgoing.writeHead(answer.statusCode!, answer.headers);
  answer.pipe(outgoing);
  // The server was killed in the midst of it: so it ends for whoever asked.
  answer.once('error', () => outgoing.destroy());
  outgoing.once('close', () => answer.destroy());
}
