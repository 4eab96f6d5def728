import { MOST_PATTERNS, MOST_PATTERN_SIZE_TOGETHER, patternSizes } from '../../../engine/cues/keyword';
import { check } from '../check';

/** Patterns of a client that are too many or too large together: each message is held against all of them. */
export const patterns = check<'too many patterns'>(function* ({ loop, known }) {
  const own = patternSizes(loop);
  if (own.length === 0) return;
  const all = [...own, ...(known.others ?? []).flatMap(patternSizes)];
  const size = all.reduce((sum, each) => sum + each, 0);
  if (all.length <= MOST_PATTERNS && size <= MOST_PATTERN_SIZE_TOGETHER) return;
  const cue = loop.cues.find((each) => each.kind === 'keyword' && each.match === 'pattern');
  yield {
    code: 'too many patterns',
    severity: 'stops',
    cueId: cue!.id,
    reason:
      all.length > MOST_PATTERNS
        ? `The client’s loops have ${all.length} patterns together, and at most ${MOST_PATTERNS} are held against a message; use keywords where a pattern is not needed.`
        : `The client’s patterns have ${size} parts together once repetitions are written out, and at most ${MOST_PATTERN_SIZE_TOGETHER} are held against a message; use shorter repetitions, or keywords.`,
  };
});
