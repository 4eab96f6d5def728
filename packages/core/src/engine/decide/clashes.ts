import type { Loop } from '../../loops/model/loop';
import { foldKeyword } from '../../language/fold';
import { KEYWORD_MATCHES, type Cue, type KeywordCue, type KeywordMatch } from '../cues';
import { linesOf } from './cueIndex';

/**
 * Who else hears a keyword, and how. `same`: matched the same way, so that the client's order decides; else
 * the other goes first.
 */
export interface Clash {
  word: string;
  other: Loop;
  match: KeywordMatch;
  same: boolean;
}

const folded = (words: readonly string[]) => words.map(foldKeyword);

/**
 * The keywords of a cue that another loop of the client takes, on a line that both listen on: first, or by
 * the client's order.
 */
export function clashes(loop: Pick<Loop, 'lines'>, cue: KeywordCue, others: readonly Loop[]): Clash[] {
  return heardElsewhere(loop, cue, others).filter(
    ({ same, match }) => same || KEYWORD_MATCHES.indexOf(match) < KEYWORD_MATCHES.indexOf(cue.match),
  );
}

/**
 * Every other loop that hears one of the cue's keywords on a line that both listen on, whoever goes first.
 */
export function heardElsewhere(loop: Pick<Loop, 'lines'>, cue: KeywordCue, others: readonly Loop[]): Clash[] {
  if (cue.match === 'pattern') return [];
  return cue.words.flatMap((word) =>
    others.flatMap((other) => {
      const hears = other.cues.flatMap((each): Clash[] =>
        each.kind === 'keyword' &&
        each.match !== 'pattern' &&
        meet(loop, cue, other, each) &&
        takes(each, foldKeyword(word))
          ? [{ word, other, match: each.match, same: each.match === cue.match }]
          : [],
      );
      return hears.slice(0, 1);
    }),
  );
}

/** Whether a message that is exactly these folded words is taken by the cue. */
function takes(cue: KeywordCue, said: string): boolean {
  const words = folded(cue.words);
  switch (cue.match) {
    case 'exactly':
      return words.includes(said);
    case 'first word':
      return words.some((word) => said === word || said.startsWith(`${word} `));
    case 'whole word':
      return words.some((word) => ` ${said} `.includes(` ${word} `));
    case 'part':
      return words.some((word) => said.includes(word));
    case 'pattern':
      return false;
  }
}

/** Whether both cues listen on some line. */
function meet(loop: Pick<Loop, 'lines'>, cue: Cue, other: Loop, theirs: Cue): boolean {
  const mine = linesOf(loop, cue);
  const ours = linesOf(other, theirs);
  return mine.length === 0 || ours.length === 0 || mine.some((key) => ours.includes(key));
}
