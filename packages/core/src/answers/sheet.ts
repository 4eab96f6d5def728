import Papa from 'papaparse';
import { z } from 'zod';
import { answersTo, type Answered, type Asking } from './answering';
import { CAME_RANK, type Came } from './came';
import type { SourceIndex } from './finding';
import { placeOf, textOf } from './passage';

const parts = z
  .string()
  .default('')
  .transform((cell) =>
    cell
      .split('|')
      .map((each) => each.trim())
      .filter(Boolean),
  );

/** A question with what a right answer to it is: in a file each is a column. */
export const SheetRow = z.object({
  question: z.string().trim().min(1, 'a question is missing'),
  /** The place that answers it: "tickets.md#Children". Empty: any. */
  from: z.string().trim().default(''),
  /** What a right answer has in it, and what it must not have. Small letters are the same as large ones. */
  contains: parts,
  lacks: parts,
  /** "no": the sources do not say it, and nothing may be said outright. */
  known: z.enum(['yes', 'no'], 'known is yes or no').default('yes'),
  /** What is expected at least: said, offered among others, or nothing yet. */
  least: z
    .enum(['answer', 'offer', 'open'], 'least is answer, offer or open')
    .or(z.literal('').transform(() => 'offer' as const))
    .default('offer'),
});
export type SheetRow = z.infer<typeof SheetRow>;

/** Reads a question sheet in CSV; `problems` say what is wrong, by line, where anything is. */
export function readSheet(csv: string): { rows: SheetRow[]; problems: string[] } {
  const { data, errors, meta } = Papa.parse<Record<string, string>>(csv.replace(/^\uFEFF/, '').trim(), {
    header: true,
    skipEmptyLines: true,
  });
  if (!meta.fields?.includes('question'))
    return { rows: [], problems: ['The first line must name the columns, one of them “question”.'] };
  const problems = errors.map(({ row, message }) => `Line ${(row ?? 0) + 2}: ${message}.`);
  const rows = data.flatMap((cells, at) => {
    const read = SheetRow.safeParse(cells);
    if (read.success) return [read.data];
    problems.push(`Line ${at + 2}: ${read.error.issues.map(({ message }) => message).join('; ')}.`);
    return [];
  });
  return { rows, problems };
}

/** How a question of a sheet came out. */
export interface SheetResult {
  row: SheetRow;
  answered: Answered;
  came: Came;
  /** Whether that is at least what is expected. */
  isAsExpected: boolean;
}

const holds = (text: string, part: string): boolean => text.toLowerCase().includes(part.toLowerCase());

function cameOut({ from, contains, lacks, known }: SheetRow, { zone, text, found }: Answered): Came {
  const fits = (said: string, place: string) =>
    (from === '' || from === place) &&
    contains.every((part) => holds(said, part)) &&
    !lacks.some((part) => holds(said, part));
  if (zone === 'answer')
    return known === 'yes' && fits(text!, placeOf(found[0]!.passage)) ? 'right' : 'wrong';
  if (known === 'no') return 'open';
  return found.some(({ passage }) => fits(textOf(passage), placeOf(passage))) ? 'offered' : 'open';
}

const LEAST = { answer: 2, offer: 1, open: 0 } as const;

/** Asks every question of a sheet by itself, and says how each came out. */
export function runSheet(index: SourceIndex, rows: readonly SheetRow[], asking: Asking = {}): SheetResult[] {
  return rows.map((row) => {
    // A sheet's question is one, however it is written.
    const [answered] = answersTo(index, row.question, asking).sort((one, other) => other.sure - one.sure);
    const one: Answered = answered ?? {
      question: row.question,
      zone: 'not known',
      text: null,
      found: [],
      next: [],
      sure: 0,
      disagree: null,
    };
    const came = cameOut(row, one);
    const least = row.known === 'no' ? LEAST.open : LEAST[row.least];
    return { row, answered: one, came, isAsExpected: CAME_RANK[came] >= least };
  });
}
