import { csvShapeOf, type CsvShape } from '@dart-loop/core/people/csvReading';
import { OWN_COLUMNS } from '@dart-loop/core/people/csvWriting';
import { encodingOf, type Encoding } from '@dart-loop/core/people/encoding';
import type { UploadPage } from '@dart-loop/contract';
import type { Connection, Db } from '../platform/db/pool';

/** Bytes of one part of a file as it is kept. */
export const PART_BYTES = 256 * 1_024;
/** The largest file that is taken. */
export const MOST_BYTES = 400 * 1_024 * 1_024;

/** The bytes of a file in their order, a part at a time. */
export async function* partsOf(
  db: Connection | Db,
  clientId: number,
  uploadId: string,
): AsyncIterable<Buffer> {
  for (let n = 0; ; n++) {
    const { rows } = await db.query<{ bytes: Buffer }>(
      'select bytes from upload_part where client_id = $1 and upload_id = $2 and n = $3',
      [clientId, uploadId, n],
    );
    if (!rows[0]) return;
    yield rows[0].bytes;
  }
}

/** The beginning of a file; undefined where there is none. */
export async function firstPart(parts: AsyncIterable<Buffer>): Promise<Buffer | undefined> {
  for await (const part of parts) return part;
  return undefined;
}

/** What a file is, by its beginning. */
export interface Look {
  format: UploadPage['format'];
  encoding: Encoding;
  shape: CsvShape;
  /** Written by us: its first row is ours. */
  ours: boolean;
}

/** Looks at the beginning of a file; what somebody has chosen goes before what is guessed. */
export function lookAt(
  beginning: Uint8Array,
  whole: boolean,
  chosen: { encoding?: Encoding; separator?: string } = {},
): Look & { text: string } {
  const encoding = chosen.encoding ?? encodingOf(beginning, whole);
  const text = new TextDecoder(encoding).decode(beginning, { stream: !whole }).replace(/^\uFEFF/, '');
  const start = text.trimStart();
  const format = /^BEGIN:VCARD/i.test(start) ? 'vcard' : start.startsWith('{') ? 'jsonl' : 'csv';
  const ours = format === 'csv' && start.startsWith(`${OWN_COLUMNS.join(',')},`) && /^[^\n]*\r\n/.test(start);
  const shape = csvShapeOf(text, ours);
  return {
    format,
    encoding,
    shape: { ...shape, separator: chosen.separator ?? shape.separator },
    ours,
    text,
  };
}
