import Papa from 'papaparse';
import type { Block } from '../passage';
import { Unreadable } from './unreadable';

/** Rows of one table; nobody reads prices of more. */
const MOST_ROWS = 20_000;

/** Reads a table of a spreadsheet (CSV, any common separator): its first line names the columns. */
export function csvBlocks(text: string): Block[] {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    skipEmptyLines: 'greedy',
    preview: MOST_ROWS + 2,
  });
  const rows = data.map((row) => row.map((cell) => cell.replace(/\s+/g, ' ').trim()));
  if (rows.length > MOST_ROWS + 1) throw new Unreadable(`It has more than ${MOST_ROWS} rows.`);
  const [head, ...rest] = rows;
  return head && rest.length > 0 ? [{ kind: 'table', head, rows: rest }] : [];
}
