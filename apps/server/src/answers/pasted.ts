import type { z } from 'zod';
import { wrong } from '../platform/problem';

/**
 * Pasted lines as what they are to be. Throws as 400 the first thing that is wrong with them: what reading
 * them found, or what the schema says of one. `rows`: each with its line in what was pasted.
 */
export function pasted<T>(
  schema: z.ZodType<T>,
  rows: readonly { line: number; row: unknown }[],
  problems: readonly string[],
): T[] {
  if (problems[0]) throw wrong('csv', problems[0].replace(/\.$/, ''));
  if (rows.length === 0) throw wrong('csv', 'has no question in it');
  return rows.map(({ line, row }) => {
    const read = schema.safeParse(row);
    if (read.success) return read.data;
    const [issue] = read.error.issues;
    throw wrong('csv', `line ${line}, ${String(issue!.path[0])}: ${issue!.message}`);
  });
}
