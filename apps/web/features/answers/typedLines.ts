import { z } from 'zod';

/** Several things that are typed into one field, a line each. */
export const Lines = z.string().transform((lines) =>
  lines
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean),
);
