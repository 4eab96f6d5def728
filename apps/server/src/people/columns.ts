import type { UploadPage } from '@dart-loop/contract';
import { CsvReader } from '@dart-loop/core/people/csvReading';
import type { Encoding } from '@dart-loop/core/people/encoding';
import type { CellWorld } from '@dart-loop/core/people/cellReading';
import { guessMapping, type KnownToMapping } from '@dart-loop/core/people/mapping';
import { lookAt } from './upload';

/** Rows that are shown of a file, and those that its columns are guessed by. */
const SHOWN_ROWS = 6;
const GUESSED_BY = 200;
export const MOST_COLUMNS = 500;

export interface ColumnsAsked {
  /** The beginning of the file, and whether it is all of it. */
  beginning: Uint8Array;
  isWhole: boolean;
  /** What somebody has chosen goes before what is guessed. */
  chosen: { encoding?: Encoding; separator?: string };
  known: KnownToMapping;
  world: CellWorld;
}

export type ColumnsSeen = { page: Omit<UploadPage, 'id' | 'name'> } | { tooMany: number };

/** What a file is, and what its columns may be for. */
export function lookAtColumns({ beginning, isWhole, chosen, known, world }: ColumnsAsked): ColumnsSeen {
  const { format, encoding, shape, ours, text } = lookAt(beginning, isWhole, chosen);
  const page = { format, encoding, separator: shape.separator, ours };
  if (format !== 'csv') return { page: { ...page, columns: [], rows: [] } };
  const [header = [], ...following] = new CsvReader(shape)
    .push(text, isWhole)
    .filter((row) => row.cells.some((cell) => cell.trim() !== ''))
    .slice(0, GUESSED_BY + 1)
    .map((row) => row.cells);
  if (header.length > MOST_COLUMNS) return { tooMany: header.length };
  return {
    page: {
      ...page,
      columns: guessMapping(header, following, known, { ...world, ours }),
      rows: following.slice(0, SHOWN_ROWS),
    },
  };
}
