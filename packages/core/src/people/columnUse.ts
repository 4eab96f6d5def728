import { z } from 'zod';
import { FieldKey, LineKey } from '../loops/model/basics';
import { FieldType } from './person';

/** What a column of a file is for. A field that the client does not have is made, with its name and type. */
export const ColumnUse = z.discriminatedUnion('as', [
  z.object({ as: z.literal('nothing') }).strict(),
  z.object({ as: z.literal('person id') }).strict(),
  z.object({ as: z.literal('first name') }).strict(),
  z.object({ as: z.literal('last name') }).strict(),
  z.object({ as: z.literal('whole name') }).strict(),
  z.object({ as: z.literal('language') }).strict(),
  z.object({ as: z.literal('source') }).strict(),
  z.object({ as: z.literal('first met') }).strict(),
  z.object({ as: z.literal('last seen') }).strict(),
  z.object({ as: z.literal('tags') }).strict(),
  z.object({ as: z.literal('lists') }).strict(),
  z.object({ as: z.literal('address'), line: LineKey }).strict(),
  z.object({ as: z.literal('handle'), line: LineKey }).strict(),
  z.object({ as: z.literal('consent'), line: LineKey }).strict(),
  z.object({ as: z.literal('field'), field: FieldKey, type: FieldType }).strict(),
]);
export type ColumnUse = z.infer<typeof ColumnUse>;

/** Two columns with the same key are for the same. */
export const keyOf = (use: ColumnUse): string => JSON.stringify({ ...use, type: undefined });
