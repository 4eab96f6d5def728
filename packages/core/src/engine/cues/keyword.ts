import { RE2JS, RE2JSSyntaxException } from 're2js';
import { z } from 'zod';
import { foldKeyword } from '../../language/fold';
import { cueParts } from './cue';

/** How a keyword may match, in the order in which cues are preferred. */
export const KEYWORD_MATCHES = ['exactly', 'first word', 'whole word', 'part', 'pattern'] as const;
export type KeywordMatch = (typeof KEYWORD_MATCHES)[number];

export const KeywordCue = z
  .object({
    ...cueParts,
    kind: z.literal('keyword'),
    words: z
      .array(z.string().trim().min(1).max(200))
      .min(1, 'a keyword cue needs at least one keyword')
      .max(1_000),
    match: z.enum(KEYWORD_MATCHES),
    /** Forgives one slip of typing in words of five letters or more. */
    slip: z.boolean().optional(),
    /** Goes before a run that waits for a reply. */
    alwaysWins: z.boolean().optional(),
  })
  .strict()
  .superRefine((cue, context) => {
    for (const [index, word] of cue.words.entries()) {
      const reason =
        cue.match === 'pattern'
          ? patternProblem(word)
          : foldKeyword(word) === ''
            ? 'a keyword needs at least one letter, digit or emoji'
            : word.length > 60
              ? 'a keyword has at most 60 characters'
              : null;
      if (reason) context.addIssue({ code: 'custom', path: ['words', index], message: reason });
    }
    if (cue.alwaysWins && cue.match !== 'exactly')
      context.addIssue({
        code: 'custom',
        path: ['alwaysWins'],
        message: 'only a keyword that matches exactly can always win',
      });
    if (cue.slip && (cue.match === 'part' || cue.match === 'pattern'))
      context.addIssue({
        code: 'custom',
        path: ['slip'],
        message: 'a slip of typing is forgiven only where whole words match',
      });
  });
export type KeywordCue = z.infer<typeof KeywordCue>;

/**
 * What matching costs is the size of the compiled program times the length of the text, some 50 ns for each
 * pair. So that all patterns of a client together cost one message at most 5 ms, all three are bounded.
 */
export const MOST_PATTERN_SIZE = 150;
export const MOST_PATTERN_SIZE_TOGETHER = 300;
export const MOST_PATTERNS = 50;
/** Characters of a text that patterns look at. */
export const PATTERN_LOOKS_AT = 300;

export interface CompiledPattern {
  /** Instructions of its program: repetitions are written out in it. */
  size: number;
  test(text: string): boolean;
}

/**
 * Patterns run in linear time (RE2), without regard to case, over the first {@link PATTERN_LOOKS_AT}
 * characters; in a longer text a match that reaches up to where it is cut does not count, as nobody knows how
 * it would go on. Throws when it is no pattern.
 */
export function compilePattern(pattern: string): CompiledPattern {
  const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
  return {
    size: compiled.programSize(),
    test: (text) => {
      const cut = text.length > PATTERN_LOOKS_AT;
      const matcher = compiled.matcher(cut ? text.slice(0, PATTERN_LOOKS_AT) : text);
      return matcher.find() && !(cut && matcher.end() === PATTERN_LOOKS_AT);
    },
  };
}

/** The sizes of a loop's patterns. */
export const patternSizes = ({
  cues,
}: {
  cues: readonly { kind: string; match?: string; words?: readonly string[] }[];
}): number[] =>
  cues.flatMap((cue) =>
    cue.kind === 'keyword' && cue.match === 'pattern'
      ? (cue.words ?? []).map((word) => compilePattern(word).size)
      : [],
  );

/** Why a text is no pattern, with its place counted from 1; null when it is one. */
export function patternProblem(pattern: string): string | null {
  try {
    RE2JS.compile(pattern);
    const { size } = compilePattern(pattern);
    return size > MOST_PATTERN_SIZE
      ? `“${pattern}” has ${size} parts once its repetitions are written out, and at most ${MOST_PATTERN_SIZE} are taken; use a shorter repetition`
      : null;
  } catch (error) {
    if (!(error instanceof RE2JSSyntaxException)) throw error;
    // What is missing is missing at the end; else the fragment at fault is named.
    const fragment = error.input && error.input !== pattern ? error.input : null;
    const at = fragment === null ? pattern.length : pattern.indexOf(fragment) + 1;
    return `“${pattern}” is no pattern: ${error.error} at character ${at}${fragment === null ? '' : ` (“${fragment}”)`}`;
  }
}

export const MATCH_WORDS: Record<KeywordMatch, string> = {
  exactly: 'exactly',
  'first word': 'as the first word',
  'whole word': 'anywhere as a whole word',
  part: 'anywhere in the text',
  pattern: 'by pattern',
};

/** How the script words the cue: `“OPEN” or “HOURS” exactly`. */
export function keywordWords(cue: KeywordCue): string {
  const words = cue.words.map((word) => `“${word}”`).join(' or ');
  return `${words} ${MATCH_WORDS[cue.match]}${cue.slip ? ', a slip forgiven' : ''}${cue.alwaysWins ? ', always wins' : ''}`;
}
