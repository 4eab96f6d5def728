import { z } from 'zod';
import { KeywordCue, keywordWords } from './keyword';

/** What starts a loop for a person. A new kind is one file here plus its line in this union. */
export const Cue = z.discriminatedUnion('kind', [KeywordCue]);
export type Cue = z.infer<typeof Cue>;

export function cueWords(cue: Cue): string {
  switch (cue.kind) {
    case 'keyword':
      return keywordWords(cue);
  }
}

export { KEYWORD_MATCHES, type KeywordCue, type KeywordMatch } from './keyword';
