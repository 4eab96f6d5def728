import type { Asked, Found } from './finding';
import { textOf } from './passage';
import { typeFit } from './questionTypes';
import { stemsIn } from './terms';

/** Passages that fit this much worse than the best are about something else. */
const AS_GOOD = 0.85;
/** Headings that share so much of their words are about the same. */
const SAME_HEADING = 0.6;

/** Amounts and times as they stand in a text, each once. */
const figuresIn = (text: string): Set<string> =>
  new Set(
    (text.match(/[£€$]\s?\d[\d,.]*\d|[£€$]\s?\d|\b\d{1,2}[:.]\d\d\b|\b\d[\d,.]*\s?%/g) ?? []).map((each) =>
      each.replace(/\s|[.:]?00$/g, ''),
    ),
  );

function areAlike(one: string, other: string): boolean {
  const [ours, theirs] = [stemsIn(one), stemsIn(other)];
  const both = [...ours].filter((word) => theirs.has(word)).length;
  return both / Math.max(1, new Set([...ours, ...theirs]).size) >= SAME_HEADING;
}

/** Passages of other sources that are about the same as the one that fits best. */
export interface Twins {
  /** Those with the same amounts and times: they do not make it less sure. */
  agreeing: Found[];
  /** The first with other ones. */
  disagreeing: Found | null;
}

const NONE: Twins = { agreeing: [], disagreeing: null };

/**
 * What of other sources stands below the same heading as the best passage, fits the question as well, and has
 * amounts or times; nothing where none are asked for.
 */
export function twinsOf(asked: Asked, found: readonly Found[]): Twins {
  const [best, ...others] = found;
  if (!best || typeFit(asked.text, '') === null) return NONE;
  const ours = figuresIn(textOf(best.passage));
  if (ours.size === 0) return NONE;
  const twins = others.filter(
    ({ passage, score, matched }) =>
      passage.source !== best.passage.source &&
      score >= AS_GOOD * best.score &&
      best.matched.every((stem) => matched.includes(stem)) &&
      areAlike(passage.headings.at(-1) ?? '', best.passage.headings.at(-1) ?? ''),
  );
  const figures = (twin: Found) => figuresIn(textOf(twin.passage));
  return {
    agreeing: twins.filter((twin) => sameSet(ours, figures(twin))),
    disagreeing:
      twins.find((twin) => {
        const theirs = figures(twin);
        return theirs.size > 0 && ![...ours].some((figure) => theirs.has(figure));
      }) ?? null,
  };
}

const sameSet = (one: ReadonlySet<string>, other: ReadonlySet<string>): boolean =>
  one.size === other.size && [...one].every((each) => other.has(each));
