import { z } from 'zod';
import { ListName } from '../loops/model/basics';

/**
 * A consented membership. `double`: whoever is put on it is asked once more, and stands on it when they have
 * said yes.
 * `wording` is what they agree to, word for word; every change of it is a version of its own.
 */
export const ListDefinition = z
  .object({
    name: ListName,
    description: z.string().trim().max(300).default(''),
    double: z.boolean().default(false),
    wording: z.string().trim().max(600, 'the wording of a list has at most 600 characters').default(''),
  })
  .strict()
  .refine(({ double, wording }) => !double || wording !== '', {
    path: ['wording'],
    message: 'a list that is confirmed needs the wording that is agreed to',
  });
export type ListDefinition = z.infer<typeof ListDefinition>;

/** A list as a run sees it: the wording that holds now, and which version of it that is. */
export interface ListFacts {
  name: string;
  double: boolean;
  wording: string;
  version: number;
}

/** What an opt-in or opt-out is about. */
export type ConsentScope = 'line' | 'list' | 'everything';
