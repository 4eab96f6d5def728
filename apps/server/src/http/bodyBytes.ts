import type { Request } from 'express';
import { Problem } from '../platform/problem';

/** Who sends nothing for so long is let go of. */
const UNSENT_MS = 30_000;

/** A request's body as it comes, at most `most` bytes of it; `tooLarge` says what may come, in a sentence. */
export async function* bodyParts(
  request: Request,
  { most, tooLarge, unsentMs = UNSENT_MS }: { most: number; tooLarge: string; unsentMs?: number },
): AsyncIterable<Buffer> {
  let bytes = 0;
  request.setTimeout(unsentMs, () => request.destroy());
  for await (const part of request as AsyncIterable<Buffer>) {
    bytes += part.length;
    if (bytes > most) throw new Problem(413, 'Too large', tooLarge);
    yield part;
  }
}

/** The bytes of a request's body, at most `most`. */
export async function bodyBytes(request: Request, most: number): Promise<Buffer> {
  const tooLarge = `A file may have ${Math.round(most / 1_024 / 1_024)} MB when it is handed in.`;
  const parts: Buffer[] = [];
  for await (const part of bodyParts(request, { most, tooLarge })) parts.push(part);
  return Buffer.concat(parts);
}
