import type { LoopVersion } from '../model/loop';
import { fold } from '../words/fold';
import { KEYWORD_MATCHES, type KeywordMatch } from './cues';

/** One keyword of one cue, as it is looked up. */
export interface HeardCue {
  loopId: string;
  version: number;
  loopName: string;
  cueId: string;
  /** The keyword as the builder wrote it. */
  keyword: string;
  folded: string;
  match: KeywordMatch;
  /** Keys of the lines it listens on; empty means every line. */
  lines: readonly string[];
  /** The client's own order of loops and cues, counted up. */
  order: number;
}

/** All published cues of one client, ready to be asked. Immutable; made once per publish. */
export interface CueIndex {
  exactly: ReadonlyMap<string, HeardCue[]>;
  firstWord: ReadonlyMap<string, HeardCue[]>;
  wholeWord: ReadonlyMap<string, HeardCue[]>;
  /** Most words in one keyword, so that lookups try no longer phrases. */
  longest: number;
}

/** Builds the index over the live versions of a client's loops, in the client's order. O(keywords). */
export function indexCues(live: readonly LoopVersion[]): CueIndex {
  const index = {
    exactly: new Map<string, HeardCue[]>(),
    firstWord: new Map<string, HeardCue[]>(),
    wholeWord: new Map<string, HeardCue[]>(),
    longest: 0,
  };
  const shelves: Record<KeywordMatch, Map<string, HeardCue[]>> = {
    exactly: index.exactly,
    'first word': index.firstWord,
    'whole word': index.wholeWord,
  };
  let order = 0;
  for (const { loopId, version, loop } of live)
    for (const cue of loop.cues) {
      order++;
      const lines = cue.lines?.length ? cue.lines : loop.lines;
      for (const keyword of cue.words) {
        const folded = fold(keyword);
        const heard: HeardCue = { loopId, version, loopName: loop.name, cueId: cue.id, keyword, folded, match: cue.match, lines, order };
        const shelf = shelves[cue.match];
        const there = shelf.get(folded);
        if (there) there.push(heard);
        else shelf.set(folded, [heard]);
        index.longest = Math.max(index.longest, folded.split(' ').length);
      }
    }
  return index;
}

/**
 * Every cue that hears `text` on the line, best first: exactly, first word, whole word; then the narrower lines,
 * the longer keyword, the client's own order. Costs one lookup per phrase of the text, whatever the number of cues.
 */
export function hear(index: CueIndex, text: string, lineKey: string): HeardCue[] {
  const said = fold(text.slice(0, 1_000));
  if (!said) return [];
  const found: HeardCue[] = [...(index.exactly.get(said) ?? [])];
  const words = said.split(' ');
  const most = Math.min(index.longest, words.length);
  for (let length = 1; length <= most; length++) {
    const first = index.firstWord.get(words.slice(0, length).join(' '));
    if (first) found.push(...first);
    if (index.wholeWord.size > 0)
      for (let from = 0; from + length <= words.length; from++) {
        const whole = index.wholeWord.get(words.slice(from, from + length).join(' '));
        if (whole) found.push(...whole);
      }
  }
  const here = [...new Set(found)].filter((cue) => cue.lines.length === 0 || cue.lines.includes(lineKey));
  return here.sort(byPreference);
}

function byPreference(a: HeardCue, b: HeardCue): number {
  return (
    KEYWORD_MATCHES.indexOf(a.match) - KEYWORD_MATCHES.indexOf(b.match) ||
    (a.lines.length || Infinity) - (b.lines.length || Infinity) ||
    b.folded.length - a.folded.length ||
    a.order - b.order ||
    0
  );
}

/** Why `winner` was preferred to `loser`, in words that follow "lost:". */
export function whyPreferred(winner: HeardCue, loser: HeardCue): string {
  const rank = KEYWORD_MATCHES.indexOf(loser.match) - KEYWORD_MATCHES.indexOf(winner.match);
  if (rank > 0) return `its match is broader (${loser.match}, against ${winner.match})`;
  if ((loser.lines.length || Infinity) > (winner.lines.length || Infinity)) return 'it listens on more lines';
  if (loser.folded.length < winner.folded.length) return `its keyword “${loser.keyword}” is shorter`;
  return 'it stands later in the client’s own order';
}
