import type { Request } from 'express';
import { Problem } from '../platform/problem';

/** Who sends nothing for so long is let go of. */
const UNSENT_MS = 30_000;

/** The bytes of a request's body, at most `most`. */
export async function bodyBytes(request: Request, most: number): Promise<Buffer> {
  const parts: Buffer[] = [];
  let bytes = 0;
  request.setTimeout(UNSENT_MS, () => request.destroy());
  for await (const part of request as AsyncIterable<Buffer>) {
    bytes += part.length;
    if (bytes > most)
      throw new Problem(
        413,
        'Too large',
        `A file may have ${Math.round(most / 1_024 / 1_024)} MB when it is handed in.`,
      );
    parts.push(part);
  }
  return Buffer.concat(parts);
}
