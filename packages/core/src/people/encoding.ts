/** Encodings that lists of people come in. windows-1252 stands for Latin-1 too. */
export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const;
export type Encoding = (typeof ENCODINGS)[number];

/**
 * How the bytes of a file are to be read: by its byte order mark, else by where its noughts are, else UTF-8
 * where it is that, else windows-1252. `whole`: these are all of them, so that a letter cut off at the end
 * counts against UTF-8.
 */
export function encodingOf(bytes: Uint8Array, whole: boolean): Encoding {
  const begins = (...mark: number[]) => mark.every((byte, at) => bytes[at] === byte);
  if (begins(0xef, 0xbb, 0xbf)) return 'utf-8';
  if (begins(0xff, 0xfe)) return 'utf-16le';
  if (begins(0xfe, 0xff)) return 'utf-16be';
  const looked = bytes.subarray(0, 2_000);
  let even = 0;
  let odd = 0;
  for (let at = 0; at < looked.length; at++)
    if (looked[at] === 0) {
      if (at % 2 === 0) even++;
      else odd++;
    }
  const most = looked.length * 0.3;
  if (odd > most && even < odd / 8) return 'utf-16le';
  if (even > most && odd < even / 8) return 'utf-16be';
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: !whole });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}
