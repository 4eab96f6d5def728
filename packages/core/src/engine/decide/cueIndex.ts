import type { Loop, LoopVersion } from '../../loops/model/loop';
import { fold, foldKeyword, foldWithEmoji, mayHoldEmoji, slips } from '../../language/fold';
import {
  KEYWORD_MATCHES,
  MOST_PATTERNS,
  MOST_PATTERN_SIZE_TOGETHER,
  compilePattern,
  type Cue,
  type DateCue,
  type KeywordMatch,
  type SilenceCue,
} from '../cues';

/** One cue that hears something; for a keyword, the one that was found. */
export interface HeardCue {
  loopId: string;
  version: number;
  loopName: string;
  cue: Cue;
  /** Keys of the lines it listens on; empty means every line. */
  lines: readonly string[];
  /** The client's own order of loops and cues, counted up. */
  order: number;
}

/** Whether a cue is heard on the line. */
export const listensOn = ({ lines }: Pick<HeardCue, 'lines'>, lineKey: string): boolean =>
  lines.length === 0 || lines.includes(lineKey);

export interface HeardKeyword extends HeardCue {
  /** The keyword as the builder wrote it. */
  keyword: string;
  folded: string;
  match: KeywordMatch;
  /** Whether a slip of typing was forgiven. */
  slipped: boolean;
}

interface SlipKeyword {
  heard: HeardKeyword;
  words: string[];
  /** The same keyword as it is found without a slip. */
  plain: HeardKeyword;
}

/** All published cues of one client, ready to be asked. Immutable; made once per publish. */
export interface CueIndex {
  exactly: ReadonlyMap<string, HeardKeyword[]>;
  firstWord: ReadonlyMap<string, HeardKeyword[]>;
  wholeWord: ReadonlyMap<string, HeardKeyword[]>;
  /**
   * Keywords that match as part of the text, by their first three characters (fewer, where they have fewer).
   */
  parts: ReadonlyMap<string, HeardKeyword[]>;
  /** Which of those lengths there are, and which characters they begin with. */
  partLengths: readonly number[];
  partStarts: ReadonlySet<number>;
  patterns: readonly { heard: HeardKeyword; test(text: string): boolean }[];
  /** Keywords that forgive a slip, by every form their longest word takes with one letter left out. */
  slips: ReadonlyMap<string, SlipKeyword[]>;
  /** All other cues, by kind and what they wait for: "link:menu", "tag:added:vip". */
  others: ReadonlyMap<string, HeardCue[]>;
  dates: readonly (HeardCue & { cue: DateCue })[];
  silences: readonly (HeardCue & { cue: SilenceCue })[];
  /** Whether a keyword is nothing but emoji. */
  emoji: boolean;
  /** Most words in one keyword, so that lookups try no longer phrases. */
  longest: number;
}

/** Words this short forgive nothing. */
const SHORTEST_WITH_SLIP = 5;

/** The lines that a cue listens on: its own, else its loop's; none means all. */
export const linesOf = (loop: Pick<Loop, 'lines'>, cue: Cue): readonly string[] =>
  cue.lines?.length ? cue.lines : loop.lines;

/** Whether a cue of a loop is heard on a line. */
export const isHeardOn = (loop: Pick<Loop, 'lines'>, cue: Cue, lineKey: string): boolean =>
  listensOn({ lines: linesOf(loop, cue) }, lineKey);

/** What a cue that is not a keyword is looked up by; more than one for a cue with several ads or forms. */
function keysOf(cue: Cue): string[] {
  switch (cue.kind) {
    case 'link':
      return [`link:${cue.ref}`];
    case 'menu tap':
      return [`menu:${cue.item}`];
    case 'tag':
      return [`tag:${cue.when}:${cue.tag}`];
    case 'list joined':
      return [`list:${cue.list}`];
    case 'field changed':
      return [`field:${cue.field}`];
    case 'incoming webhook':
      return [`webhook:${cue.hook}`];
    case 'ad click':
      return [...(cue.ads ?? []).map((ad) => `ad:${ad}`), ...(cue.ref ? [`ad-ref:${cue.ref}`] : [])];
    case 'lead form':
      return cue.forms.map((form) => `form:${form}`);
    case 'first message':
    case 'fallback':
    case 'comment':
      return [cue.kind];
    case 'keyword':
    case 'date':
    case 'silence':
      return [];
  }
}

/** Builds the index over the live versions of a client's loops, in the client's order. O(keywords). */
export function indexCues(live: readonly LoopVersion[]): CueIndex {
  const exactly = new Map<string, HeardKeyword[]>();
  const firstWord = new Map<string, HeardKeyword[]>();
  const wholeWord = new Map<string, HeardKeyword[]>();
  const parts = new Map<string, HeardKeyword[]>();
  const patterns: { heard: HeardKeyword; test(text: string): boolean }[] = [];
  let size = 0;
  const slipped = new Map<string, SlipKeyword[]>();
  const others = new Map<string, HeardCue[]>();
  const dates: (HeardCue & { cue: DateCue })[] = [];
  const silences: (HeardCue & { cue: SilenceCue })[] = [];
  let longest = 0;
  let emoji = false;
  let order = 0;
  for (const { loopId, version, loop } of live)
    for (const cue of loop.cues) {
      order++;
      const heard: HeardCue = { loopId, version, loopName: loop.name, cue, lines: linesOf(loop, cue), order };
      for (const key of keysOf(cue)) push(others, key, heard);
      if (cue.kind === 'date') dates.push({ ...heard, cue });
      if (cue.kind === 'silence') silences.push({ ...heard, cue });
      if (cue.kind !== 'keyword') continue;
      for (const keyword of cue.words) {
        const folded = cue.match === 'pattern' ? keyword : foldKeyword(keyword);
        emoji ||= cue.match !== 'pattern' && fold(keyword) === '';
        const found: HeardKeyword = { ...heard, keyword, folded, match: cue.match, slipped: false };
        if (cue.match === 'pattern') {
          const compiled = compilePattern(keyword);
          // More than this is refused when a loop is published; of what was published before, the first ones
          // count.
          size += compiled.size;
          if (size <= MOST_PATTERN_SIZE_TOGETHER && patterns.length < MOST_PATTERNS)
            patterns.push({ heard: found, test: compiled.test });
        } else if (cue.match === 'part') push(parts, folded.slice(0, 3), found);
        else {
          push({ exactly, 'first word': firstWord, 'whole word': wholeWord }[cue.match], folded, found);
          longest = Math.max(longest, folded.split(' ').length);
          const words = folded.split(' ');
          const anchor = words.reduce((a, b) => ([...b].length > [...a].length ? b : a));
          if (cue.slip && [...anchor].length >= SHORTEST_WITH_SLIP) {
            const forgiving: SlipKeyword = { heard: { ...found, slipped: true }, words, plain: found };
            for (const form of new Set(withOneLess(anchor))) push(slipped, form, forgiving);
          }
        }
      }
    }
  const partLengths = [...new Set([...parts.keys()].map((key) => key.length))].sort();
  const partStarts = new Set([...parts.keys()].map((key) => key.charCodeAt(0)));
  return {
    exactly,
    firstWord,
    wholeWord,
    parts,
    partLengths,
    partStarts,
    patterns,
    slips: slipped,
    others,
    dates,
    silences,
    emoji,
    longest,
  };
}

function push<T>(shelf: Map<string, T[]>, key: string, item: T): void {
  const there = shelf.get(key);
  if (there) there.push(item);
  else shelf.set(key, [item]);
}

/**
 * A word itself, and with each of its letters left out: two words one slip apart share one of these forms.
 */
function withOneLess(word: string): string[] {
  const forms = [word];
  // Letters beyond the basic plane take two units and are left out whole.
  if (/[\ud800-\udfff]/.test(word)) {
    const letters = [...word];
    for (let at = 0; at < letters.length; at++) forms.push(letters.toSpliced(at, 1).join(''));
  } else for (let at = 0; at < word.length; at++) forms.push(word.substring(0, at) + word.substring(at + 1));
  return forms;
}

/**
 * Every cue that hears `text` on the line, best first: exactly, first word, whole word, part, pattern; then
 * without a slip; then the narrower lines, the longer keyword, the client's own order. One lookup per phrase
 * and place of the text, whatever the number of keywords; only patterns are tried one by one, over fewer.
 * Looks at the first 1,000 characters.
 */
export function hear(index: CueIndex, text: string, lineKey: string): HeardKeyword[] {
  const short = text.slice(0, 1_000);
  const said = fold(short);
  const found = new Set<HeardKeyword>();
  for (const { heard, test } of index.patterns) if (test(short.trim())) found.add(heard);
  if (said) {
    hearWords(index, said, found);
    if (index.slips.size > 0) hearSlips(index, said.split(' '), found);
  }
  if (index.emoji && mayHoldEmoji(short)) hearWords(index, foldWithEmoji(short), found);
  return [...found].filter((heard) => listensOn(heard, lineKey)).sort(byPreference);
}

/** The keywords in folded words: one lookup per phrase and place. */
function hearWords(index: CueIndex, said: string, found: Set<HeardKeyword>): void {
  for (const heard of index.exactly.get(said) ?? []) found.add(heard);
  const starts = wordStarts(said);
  const most = Math.min(index.longest, starts.length);
  for (let from = 0; from < starts.length; from++) {
    if (from > 0 && index.wholeWord.size === 0) break;
    for (let length = 1; length <= most && from + length <= starts.length; length++) {
      const end = from + length < starts.length ? starts[from + length]! - 1 : said.length;
      const phrase = said.substring(starts[from]!, end);
      if (from === 0) for (const heard of index.firstWord.get(phrase) ?? NONE) found.add(heard);
      for (const heard of index.wholeWord.get(phrase) ?? NONE) found.add(heard);
    }
  }
  if (index.parts.size > 0)
    for (let at = 0; at < said.length; at++) {
      if (!index.partStarts.has(said.charCodeAt(at))) continue;
      for (const length of index.partLengths)
        for (const heard of index.parts.get(said.substring(at, at + length)) ?? NONE)
          if (said.startsWith(heard.folded, at)) found.add(heard);
    }
}

const NONE: readonly HeardKeyword[] = [];

/** Where each word of a folded text begins. */
function wordStarts(said: string): number[] {
  const starts = [0];
  for (let at = said.indexOf(' '); at >= 0; at = said.indexOf(' ', at + 1)) starts.push(at + 1);
  return starts;
}

function hearSlips(index: CueIndex, words: string[], found: Set<HeardKeyword>): void {
  const tried = new Set<SlipKeyword>();
  for (const word of words) {
    if (word.length < SHORTEST_WITH_SLIP - 1) continue;
    for (const form of withOneLess(word))
      for (const candidate of index.slips.get(form) ?? []) {
        if (tried.has(candidate)) continue;
        tried.add(candidate);
        const { heard, words: wanted, plain } = candidate;
        if (found.has(plain)) continue;
        const starts = heard.match === 'whole word' ? words.map((_, at) => at) : [0];
        if (heard.match === 'exactly' && words.length !== wanted.length) continue;
        if (starts.some((at) => fitsWithSlips(words.slice(at, at + wanted.length), wanted))) found.add(heard);
      }
  }
}

/**
 * Whether the words are the wanted ones, each long one with one slip at the most; the same words do not
 * count, they are found otherwise.
 */
function fitsWithSlips(words: string[], wanted: string[]): boolean {
  if (words.length !== wanted.length) return false;
  let any = false;
  for (const [at, word] of wanted.entries()) {
    if (words[at] === word) continue;
    if ([...word].length < SHORTEST_WITH_SLIP || slips(words[at]!, word, 1) > 1) return false;
    any = true;
  }
  return any;
}

/** The cues of another kind that wait for `key` on the line, in order of preference. */
export function hearOther(index: CueIndex, key: string, lineKey: string): HeardCue[] {
  const found = index.others.get(key) ?? [];
  return found.filter((heard) => listensOn(heard, lineKey)).sort(byLinesAndOrder);
}

function byLinesAndOrder(a: HeardCue, b: HeardCue): number {
  return (a.lines.length || Infinity) - (b.lines.length || Infinity) || a.order - b.order || 0;
}

function byPreference(a: HeardKeyword, b: HeardKeyword): number {
  return (
    KEYWORD_MATCHES.indexOf(a.match) - KEYWORD_MATCHES.indexOf(b.match) ||
    Number(a.slipped) - Number(b.slipped) ||
    narrower(a, b) ||
    b.folded.length - a.folded.length ||
    a.order - b.order
  );
}

function narrower(a: HeardCue, b: HeardCue): number {
  const left = a.lines.length || Infinity;
  const right = b.lines.length || Infinity;
  return left === right ? 0 : left - right;
}

export const isKeyword = (heard: HeardCue): heard is HeardKeyword => 'folded' in heard;

/** Why `winner` was preferred to `loser`, in words that follow "lost:". */
export function whyPreferred(winner: HeardCue, loser: HeardCue): string {
  if (isKeyword(loser) && !isKeyword(winner)) return 'a link, an ad or the menu goes before keywords';
  if (isKeyword(winner) && isKeyword(loser)) {
    const rank = KEYWORD_MATCHES.indexOf(loser.match) - KEYWORD_MATCHES.indexOf(winner.match);
    if (rank > 0) return `its match is broader (${loser.match}, against ${winner.match})`;
    if (loser.slipped && !winner.slipped) return 'it hears this only with a slip of typing forgiven';
  }
  if (narrower(winner, loser) < 0) return 'it listens on more lines';
  if (isKeyword(winner) && isKeyword(loser) && loser.folded.length < winner.folded.length)
    return `its keyword “${loser.keyword}” is shorter`;
  return 'it stands later in the client’s own order';
}

/** The cue a timer or background event belongs to, still live. */
export function liveCue(
  index: CueIndex,
  loopId: string,
  cueId: string,
): CueIndex['dates'][number] | CueIndex['silences'][number] | null {
  return (
    [...index.dates, ...index.silences].find((heard) => heard.loopId === loopId && heard.cue.id === cueId) ??
    null
  );
}
