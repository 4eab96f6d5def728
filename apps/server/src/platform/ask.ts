import { createReadStream } from 'node:fs';
import { Agent as PlainAgent, request as plainRequest, type IncomingHttpHeaders } from 'node:http';
import type { LookupFunction } from 'node:net';
import { Agent as SecureAgent, request as secureRequest } from 'node:https';
import { isTooDeep, toJson } from './db/json';

/**
 * Why nothing was heard: by this it is decided what to do; the sentence beside it is for people. `forbidden`:
 * the guard does not let us call there.
 */
export type SilenceCode = 'forbidden' | 'unreached' | 'too slow' | 'too long' | 'broken off';

/** One outgoing call of an adapter: JSON out, JSON in, with a bound on time and size. */
export type Answer =
  | { kind: 'answer'; status: number; headers: IncomingHttpHeaders; body: unknown }
  | { kind: 'silence'; code: SilenceCode; reason: string };

/** A name turned out to lie inside. */
export class NotOutside extends Error {}

export type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';

/** A file as a body, read as it goes out. It may take as long as a slow line needs for it. */
export class FileBody {
  constructor(
    readonly path: string,
    readonly type: string,
    /** In bytes. */
    readonly size: number,
  ) {}
  get patienceMs(): number {
    return PATIENCE_MS + Math.ceil(this.size / SLOW_LINE) * 1_000;
  }
}

const MOST_BYTES = 1_000_000;
/** Bytes a second. */
const SLOW_LINE = 250_000;
/** A host that does not take the connection by then is not there. */
const CONNECT_MS = 5_000;
const PATIENCE_MS = 15_000;
const SILENT: Answer = { kind: 'silence', code: 'unreached', reason: 'it could not be reached' };
// Connections are kept: at full pace a line makes dozens of calls a second to the same host.
const plain = new PlainAgent({ keepAlive: true, maxSockets: 256 });
const secure = new SecureAgent({ keepAlive: true, maxSockets: 256 });

export interface AskOptions {
  patienceMs?: number;
  lookup?: LookupFunction;
  method?: Method;
  /** The answer is given as it came, as a Buffer of at most so many bytes, and not read as JSON. */
  bytes?: number;
}

/**
 * Posts JSON (or gets) and reads what comes back. A platform that is slow, unreachable, redirects, says too
 * much or does not answer in JSON gives `silence` or a null body, never an exception.
 */
export async function askPlatform(
  url: string,
  body: unknown,
  headers: Record<string, string> = {},
  options: AskOptions = {},
): Promise<Answer> {
  return (
    (await askOnce(url, body, headers, options)) ?? (await askOnce(url, body, headers, options)) ?? SILENT
  );
}

/**
 * One call; null where the connection that was kept for it had been closed over there already, so that
 * nothing was heard of it.
 */
function askOnce(
  url: string,
  body: unknown,
  headers: Record<string, string>,
  { patienceMs = PATIENCE_MS, lookup, method = 'POST', bytes }: AskOptions,
): Promise<Answer | null> {
  return new Promise((resolve) => {
    const most = bytes ?? MOST_BYTES;
    const isFile = body instanceof FileBody;
    const payload = method === 'GET' || isFile ? '' : toJson(body);
    const isSecure = url.startsWith('https:');
    const request = (isSecure ? secureRequest : plainRequest)(url, {
      method,
      // Where a name is looked up anew for the call, no kept connection must serve it.
      agent: lookup ? false : isSecure ? secure : plain,
      ...(lookup && { lookup }),
      headers: {
        ...(isFile
          ? { 'content-type': body.type, 'content-length': body.size }
          : method !== 'GET' && {
              'content-type': 'application/json',
              'content-length': Buffer.byteLength(payload),
            }),
        ...headers,
      },
    });
    const give = (answer: Answer | null) => {
      clearTimeout(patience);
      resolve(answer);
    };
    const patience = setTimeout(() => {
      give({ kind: 'silence', code: 'too slow', reason: `it did not answer within ${patienceMs / 1_000} s` });
      request.destroy();
    }, patienceMs);
    // A kept connection is open already.
    request.on('socket', (socket) => {
      if (!socket.connecting) return;
      const connecting = setTimeout(() => {
        give({
          kind: 'silence',
          code: 'unreached',
          reason: `it did not take the connection within ${CONNECT_MS / 1_000} s`,
        });
        request.destroy();
      }, CONNECT_MS);
      for (const over of ['connect', 'close']) socket.once(over, () => clearTimeout(connecting));
    });
    request.on('error', (error: NodeJS.ErrnoException) => {
      if (error instanceof NotOutside)
        return give({ kind: 'silence', code: 'forbidden', reason: error.message });
      if (request.reusedSocket && ['ECONNRESET', 'EPIPE'].includes(error.code ?? '')) return give(null);
      give(SILENT);
    });
    request.on('response', (response) => {
      const pieces: Buffer[] = [];
      let size = 0;
      response.on('data', (piece: Buffer) => {
        size += piece.length;
        if (size <= most) pieces.push(piece);
        else {
          give({
            kind: 'silence',
            code: 'too long',
            reason: `its answer was longer than ${most / 1_000_000} MB`,
          });
          request.destroy();
        }
      });
      response.on('error', () =>
        give({ kind: 'silence', code: 'broken off', reason: 'it broke off in the middle of its answer' }),
      );
      response.on('end', () =>
        give({
          kind: 'answer',
          status: response.statusCode ?? 0,
          headers: response.headers,
          body: bytes === undefined ? parsed(Buffer.concat(pieces).toString('utf8')) : Buffer.concat(pieces),
        }),
      );
    });
    if (isFile)
      createReadStream(body.path)
        .on('error', () => request.destroy())
        .pipe(request);
    else request.end(payload);
  });
}

function parsed(text: string): unknown {
  try {
    const value: unknown = JSON.parse(text);
    // Nothing of ours walks so deep: it is kept as the text it came as.
    return isTooDeep(value) ? text.slice(0, 4_000) : value;
  } catch {
    // Not JSON: the status alone speaks.
    return null;
  }
}
