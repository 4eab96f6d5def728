import { z } from 'zod';
import { FieldKey } from './basics';

/** The types a field can have. Each has one reader in `words/replies/`. */
export const FieldType = z.enum(['text', 'email', 'phone', 'number', 'yes/no']);
export type FieldType = z.infer<typeof FieldType>;

/** A value with its type: a number stays a number, a phone number is in E.164, text is as written. */
export const Value = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), value: z.string() }),
  z.object({ type: z.literal('email'), value: z.string() }),
  z.object({ type: z.literal('phone'), value: z.string() }),
  z.object({ type: z.literal('number'), value: z.number() }),
  z.object({ type: z.literal('yes/no'), value: z.boolean() }),
]);
export type Value = z.infer<typeof Value>;

/** A value as people read it. */
export function valueWords(value: Value): string {
  if (value.type === 'yes/no') return value.value ? 'yes' : 'no';
  return String(value.value);
}

/** What is known of one person while a loop runs. */
export interface PersonFacts {
  id: string;
  firstName: string | null;
  lastName: string | null;
  fields: Record<string, Value>;
  tags: string[];
}

/** A client's fields: key to type. */
export type FieldTypes = Record<string, FieldType>;

export const FieldDefinition = z.object({ key: FieldKey, type: FieldType, name: z.string().trim().min(1).max(60) });
export type FieldDefinition = z.infer<typeof FieldDefinition>;
