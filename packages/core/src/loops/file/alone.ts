import { CUE_KINDS } from '../../engine/cues';

/** Where a step or cue alone leads; what is not shown becomes a scene that says its own id. */
const LEADS_TO = /(?:\bto|otherwise|somethingElse|dontKnow|cancel|unknown|failed|full): ([a-z][a-z0-9-]*)/g;

/** A loop file around a cue or a step alone, and how far the lines of the text stand in it. */
export interface Around {
  file: string;
  lines: number;
  columns: number;
}

/**
 * The loop around a text that is one cue or one step, as the documentation shows them: the word "go" starts a
 * loop with the step, and a cue starts one that says "started". Null for a text that is something else.
 */
export function loopAround(text: string): Around | null {
  const kind = /^kind:\s*["']?([a-z ]+?)["']?\s*$/m.exec(text)?.[1];
  if (kind === undefined || /^(format|scenes):/m.test(text)) return null;
  const indented = (by: number) => text.trimEnd().replaceAll('\n', `\n${' '.repeat(by)}`);
  if (CUE_KINDS.some((each) => each === kind))
    return {
      file: `format: dart-loop/1\nname: Example\ncues:\n  - ${indented(4)}\nscenes:\n  - { name: One, steps: [{ kind: say, text: started }] }\n`,
      lines: 3,
      columns: 4,
    };
  const targets = [...new Set([...text.matchAll(LEADS_TO)].map((match) => match[1]!))].filter(
    (to) => to !== 'next' && to !== 'end' && to !== 'bookings',
  );
  const scenes = targets
    .map((to) => `  - { id: ${to}, name: ${to}, steps: [{ kind: say, text: (${to}) }] }\n`)
    .join('');
  // What comes after a step that leads on shows that it does.
  const after = /^(ask|say|end)$/.test(kind) ? '' : '      - { kind: say, text: (done) }\n';
  return {
    file: `format: dart-loop/1\nname: Example\ncues: [{ kind: keyword, words: [go], match: exactly }]\nscenes:\n  - name: One\n    steps:\n      - ${indented(8)}\n${after}${scenes}`,
    lines: 6,
    columns: 8,
  };
}
