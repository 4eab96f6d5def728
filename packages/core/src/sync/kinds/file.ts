import { z } from 'zod';
import { cellsLine, joined } from '../../people/csvWriting';
import { OutsideAddress, whyNotAddress } from '../../engine/steps/outsideAddress';
import type { Cell, Mapping, Row } from '../mapping';
import type { DestinationKind } from './kind';

export const FileSettings = z
  .object({
    /**
     * Where the file is put (PUT); “DATE” in it is the day by the client's clock. Absent: into the folder
     * that the server keeps for files.
     */
    address: OutsideAddress.optional(),
  })
  .strict();
export type FileSettings = z.infer<typeof FileSettings>;

/**
 * A CSV file of everybody it is for, as a whole and on a schedule: into a folder of the server, or put at an
 * address.
 */
export const file: DestinationKind<FileSettings> = {
  kind: 'file',
  words: 'A CSV file',
  settings: FileSettings,
  needsToken: false,
  isWhole: true,
  takes: [],
  next: () => ({ kind: 'refused', reason: 'a file goes out as a whole, of everybody it is for' }),
};

/**
 * Where a file of this day (YYYY-MM-DD) is put. Throws nothing: what is not an address was refused when it
 * was set up.
 */
export const addressOn = (address: string, day: string): string => {
  const dated = address.replaceAll('DATE', day);
  return whyNotAddress(dated) === null ? dated : address;
};

/**
 * What a file of this day is called in a folder: letters, digits and hyphens, and nothing that leads
 * elsewhere.
 */
export const fileNameOn = (name: string, day: string): string =>
  `${
    name
      .normalize('NFKD')
      .replace(/\p{M}/gu, '')
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/[^\x20-\x7e]/g, '')
      .replace(/^-|-$/g, '')
      .toLowerCase() || 'people'
  }-${day}.csv`;

/** The first line of the file: the columns by their names. */
export const headLine = (mapping: Mapping): string => cellsLine(mapping.map(({ to }) => to));

/**
 * One person's line: what is not known is an empty cell; ids are text, formulas are defused, telephone
 * numbers untouched.
 */
export const rowLine = (mapping: Mapping, { cells }: Row): string =>
  cellsLine(mapping.map(({ to }) => cellText(cells[to])));

const cellText = (cell: Cell | undefined): string =>
  cell === undefined
    ? ''
    : Array.isArray(cell)
      ? joined(cell)
      : cell === true
        ? 'yes'
        : cell === false
          ? 'no'
          : String(cell);
