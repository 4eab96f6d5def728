import { check } from '../check';

/** Lines that the client does not have. */
export const unknownLine = check<'unknown line'>(function* ({ loop, known }) {
  if (!known.lines) return;
  const missing = (key: string) => !known.lines!.some((line) => line.key === key);
  for (const key of loop.lines.filter(missing))
    yield {
      code: 'unknown line',
      severity: 'stops',
      about: key,
      reason: `The client has no line with the key “${key}”.`,
      fix: {
        words: 'Take it out of the loop',
        edits: [{ edit: 'loop', path: ['lines'], value: loop.lines.filter((each) => !missing(each)) }],
      },
    };
  for (const cue of loop.cues)
    for (const key of (cue.lines ?? []).filter(missing)) {
      const rest = cue.lines!.filter((each) => !missing(each));
      yield {
        code: 'unknown line',
        severity: 'stops',
        cueId: cue.id,
        about: key,
        reason: `The client has no line with the key “${key}”.`,
        fix: {
          words: 'Take it out of the cue',
          edits: [{ edit: 'cue', cueId: cue.id, path: ['lines'], value: rest.length > 0 ? rest : undefined }],
        },
      };
    }
});
