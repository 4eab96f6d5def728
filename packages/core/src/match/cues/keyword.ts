import { z } from 'zod';
import { fold } from '../../words/fold';
import { cueParts } from './cue';

/** How a keyword may match, in the order in which cues are preferred. */
export const KEYWORD_MATCHES = ['exactly', 'first word', 'whole word'] as const;
export type KeywordMatch = (typeof KEYWORD_MATCHES)[number];

export const KeywordCue = z
  .object({
    ...cueParts,
    kind: z.literal('keyword'),
    words: z
      .array(
        z
          .string()
          .trim()
          .min(1)
          .max(60)
          .refine((word) => fold(word) !== '', 'a keyword needs at least one letter or digit'),
      )
      .min(1, 'a keyword cue needs at least one keyword')
      .max(100),
    match: z.enum(KEYWORD_MATCHES),
  })
  .strict();
export type KeywordCue = z.infer<typeof KeywordCue>;

/** How the script words the cue: `“OPEN” or “HOURS” exactly`. */
export function keywordWords(cue: KeywordCue): string {
  const words = cue.words.map((word) => `“${word}”`).join(' or ');
  return `${words} ${{ exactly: 'exactly', 'first word': 'as the first word', 'whole word': 'anywhere as a whole word' }[cue.match]}`;
}
