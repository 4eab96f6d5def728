import type { ImportSpec } from '@dart-loop/contract';
import { CsvReader } from '@dart-loop/core/people/csvReading';
import { readJsonLine } from '@dart-loop/core/people/jsonLines';
import { emptyRecord, type PersonRecord } from '@dart-loop/core/people/record';
import { readRow, type CellProblem, type RowWorld } from '@dart-loop/core/people/rowReading';
import { partCards, readCard } from '@dart-loop/core/people/vCard';
import { lookAt } from './upload';

/** A row as it was read: the person it gives, or what is wrong with it. */
export interface ReadRow {
  number: number;
  record: PersonRecord;
  problems: CellProblem[];
}

/** How a file is to be read. */
export interface RowsAsked {
  spec: Pick<ImportSpec, 'encoding' | 'separator' | 'header' | 'uses' | 'mends'>;
  world: Omit<RowWorld, 'header' | 'uses'>;
}

/**
 * Characters of one row, line or card. What is longer is no person: mostly a quotation mark that is never
 * closed.
 */
const MOST_IN_ROW = 1_000_000;

/**
 * Takes the bytes of a file in pieces of any size, the last one followed by null, and gives its rows as they
 * are complete. Holds no more than the row it is in.
 */
export function rowReader(asked: RowsAsked): { push(bytes: Uint8Array | null): ReadRow[] } {
  let reader: { push(text: string, last: boolean): ReadRow[] } | null = null;
  let decoder = new TextDecoder(asked.spec.encoding);
  return {
    push(bytes) {
      if (!reader) {
        if (bytes === null) return [];
        const look = lookAt(bytes, false, asked.spec);
        decoder = new TextDecoder(asked.spec.encoding);
        reader =
          look.format === 'jsonl'
            ? jsonLines()
            : look.format === 'vcard'
              ? cards(asked)
              : csv(new CsvReader(look.shape), { ...asked, world: { ...asked.world, ours: look.ours } });
      }
      return reader.push(
        bytes === null ? decoder.decode() : decoder.decode(bytes, { stream: true }),
        bytes === null,
      );
    },
  };
}

const whole = (row: number, cell: string, reason: string): ReadRow => ({
  number: row,
  record: emptyRecord(),
  problems: [{ row, column: null, cell: cell.slice(0, 200), reason }],
});

function csv(reader: CsvReader, { spec, world }: RowsAsked) {
  let header: string[] | null = spec.header ? null : spec.uses.map((_, at) => `column ${at + 1}`);
  return {
    push(text: string, last: boolean): ReadRow[] {
      const read: ReadRow[] = [];
      for (const row of reader.push(text, last)) {
        if (row.cells.every((cell) => cell.trim() === '') && !row.problem) continue;
        if (header === null) {
          header = row.cells;
          continue;
        }
        if (row.problem) {
          read.push(whole(row.number, row.cells.join(', '), row.problem));
          continue;
        }
        const mends = spec.mends[String(row.number)];
        const names = header;
        const cells = mends ? row.cells.map((cell, at) => mends[names[at] ?? ''] ?? cell) : row.cells;
        read.push({
          number: row.number,
          ...readRow(row.number, cells, { ...world, uses: spec.uses, header }),
        });
      }
      if (reader.held > MOST_IN_ROW) throw new TooLong('row');
      return read;
    },
  };
}

/** Lines of JSON, numbered from 1; empty ones are left out. */
function jsonLines() {
  let rest = '';
  let number = 0;
  const one = (line: string): ReadRow => {
    const read = readJsonLine(line);
    return read.ok ? { number, record: read.record, problems: [] } : whole(number, line, read.reason);
  };
  return {
    push(text: string, last: boolean): ReadRow[] {
      const lines = (rest + (number === 0 && rest === '' ? text.replace(/^\uFEFF/, '') : text)).split('\n');
      rest = last ? '' : lines.pop()!;
      if (rest.length > MOST_IN_ROW) throw new TooLong('line');
      return lines.flatMap((line) => {
        number++;
        return line.trim() === '' ? [] : [one(line)];
      });
    },
  };
}

/** Cards, numbered from 1. What is left at the end, cut off, counts as one. */
function cards({ world }: RowsAsked) {
  let rest = '';
  let number = 0;
  const one = (card: string): ReadRow => ({ number: ++number, ...readCard(number, card, world) });
  return {
    push(text: string, last: boolean): ReadRow[] {
      const parted = partCards(rest + text);
      rest = parted.rest;
      if (rest.length > MOST_IN_ROW) throw new TooLong('card');
      return [...parted.cards, ...(last && rest.trim() !== '' ? [rest] : [])].map(one);
    },
  };
}

class TooLong extends Error {
  constructor(what: string) {
    super(
      `A ${what} of the file has more than ${MOST_IN_ROW.toLocaleString('en-GB')} characters. Is a quotation mark opened and never closed, or is the file something else?`,
    );
  }
}
