import { z } from 'zod';
import { FieldKey, ListName, LocalId, TagName } from '../model/basics';
import { ChannelKind } from '../../people/client';
import { Value } from '../../people/person';

/** Whom a take is played with: what is known of them before it begins. */
export const TakePerson = z
  .object({
    /** Decides which arm of a `vary` they draw. */
    id: z.string().min(1).max(60),
    firstName: z.string().max(80).optional(),
    lastName: z.string().max(80).optional(),
    language: z.string().max(10).optional(),
    fields: z.record(FieldKey, Value).optional(),
    tags: z.array(TagName).max(100).optional(),
    lists: z.array(ListName).max(100).optional(),
  })
  .strict();
export type TakePerson = z.infer<typeof TakePerson>;

/**
 * A rehearsal kept as a test. Each turn is a line of the person, the clock or the team, as in a written
 * conversation, with what we said and did after it.
 */
export const Take = z
  .object({
    id: LocalId,
    name: z.string().trim().min(1, 'a take needs a name').max(120),
    channel: ChannelKind,
    /** When it begins, so that dates, opening hours and quiet hours are always the same. */
    begins: z.iso.datetime(),
    person: TakePerson,
    turns: z
      .array(
        z
          .object({ does: z.string().min(1).max(4_200), ours: z.array(z.string().max(12_000)).max(100) })
          .strict(),
      )
      .min(1, 'a take needs at least one turn')
      .max(300),
  })
  .strict();
export type Take = z.infer<typeof Take>;
