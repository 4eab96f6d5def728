import { z } from 'zod';

/** A passage that may be what somebody meant. */
const Offer = z.object({ label: z.string(), text: z.string(), passage: z.string().nullable() });
export type Offer = z.infer<typeof Offer>;

/** What the client's sources say to one question. */
const FromSourcesOne = z.object({
  question: z.string(),
  /** Said outright; passages to choose from; not in the sources; in two of them, and not the same. */
  came: z.enum(['answered', 'offered', 'not known', 'disagree']),
  /** The source's own words; only where it is answered. */
  text: z.string().nullable(),
  /** Where they stand, as people name it; and the passage by its id. */
  from: z.string().nullable(),
  passage: z.string().nullable(),
  offers: z.array(Offer),
  /** Who put it together, where a hosted model did: it chose the sentences, or worded them. */
  model: z.enum(['chose', 'worded']).optional(),
});
export type FromSourcesOne = z.infer<typeof FromSourcesOne>;

/** What the sources do not say. */
export const notSaid = (question: string): FromSourcesOne => ({
  ...{ question, came: 'not known', text: null, from: null, passage: null, offers: [] },
});

/** What comes back from the sources: each question of a message by itself. */
export const FromSources = z.array(FromSourcesOne).min(1);
export type FromSources = z.infer<typeof FromSources>;

/** How a question came out: what the sources said, and what the person made of it. */
export type AskedCame = FromSourcesOne['came'] | 'picked' | 'passed over';
