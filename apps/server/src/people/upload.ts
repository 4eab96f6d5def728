import { CsvReader, csvShapeOf, type CsvRow, type CsvShape } from '@dart-loop/core/people/csvReading';
import { OWN_COLUMNS } from '@dart-loop/core/people/csvWriting';
import { encodingOf, type Encoding } from '@dart-loop/core/people/encoding';
import { partCards } from '@dart-loop/core/people/vCard';
import type { UploadPage } from '@dart-loop/contract';
import type { Connection, Db } from '../db/pool';

/** Bytes of one part of a file as it is kept. */
export const PART_BYTES = 256 * 1_024;
/** The largest file that is taken. */
export const MOST_BYTES = 400 * 1_024 * 1_024;

/** The bytes of a file in their order, a part at a time. */
export async function* partsOf(db: Connection | Db, clientId: number, uploadId: string): AsyncIterable<Buffer> {
  for (let n = 0; ; n++) {
    const { rows } = await db.query<{ bytes: Buffer }>('select bytes from upload_part where client_id = $1 and upload_id = $2 and n = $3', [
      clientId,
      uploadId,
      n,
    ]);
    if (!rows[0]) return;
    yield rows[0].bytes;
  }
}

/** The beginning of a file; undefined where there is none. */
export async function firstPart(parts: AsyncIterable<Buffer>): Promise<Buffer | undefined> {
  for await (const part of parts) return part;
  return undefined;
}

/** The text of a file in pieces, read in its encoding; what the encoding does not have becomes U+FFFD. */
export async function* textOf(parts: AsyncIterable<Buffer>, encoding: Encoding): AsyncIterable<string> {
  const decoder = new TextDecoder(encoding);
  for await (const part of parts) yield decoder.decode(part, { stream: true });
  yield decoder.decode();
}

/** Rows of cells, in their order. */
export async function* csvRows(text: AsyncIterable<string>, shape: CsvShape): AsyncIterable<CsvRow> {
  const reader = new CsvReader(shape);
  for await (const piece of text) yield* reader.push(piece);
  yield* reader.push('', true);
}

/** Lines of text, numbered from 1; empty ones are left out. */
export async function* linesOf(text: AsyncIterable<string>): AsyncIterable<{ number: number; line: string }> {
  let rest = '';
  let number = 0;
  for await (const piece of text) {
    const lines = (rest + (number === 0 && rest === '' ? piece.replace(/^\uFEFF/, '') : piece)).split('\n');
    rest = lines.pop()!;
    for (const line of lines) {
      number++;
      if (line.trim() !== '') yield { number, line };
    }
  }
  if (rest.trim() !== '') yield { number: number + 1, line: rest };
}

/** Cards of a vCard file, numbered from 1. What is left at the end, cut off, counts as one. */
export async function* cardsOf(text: AsyncIterable<string>): AsyncIterable<{ number: number; card: string }> {
  let rest = '';
  let number = 0;
  for await (const piece of text) {
    const parted = partCards(rest + piece);
    rest = parted.rest;
    for (const card of parted.cards) yield { number: ++number, card };
  }
  if (rest.trim() !== '') yield { number: ++number, card: rest };
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
  return { format, encoding, shape: { ...shape, separator: chosen.separator ?? shape.separator }, ours, text };
}
