import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { problemsOf, type Loop } from '../src';
import { openRehearsal } from '../src/engine/rehearsal/rehearsal';
import { performScript } from '../src/engine/rehearsal/performance';
import { FERRIES, loopOf, nobodyYet, trialSession } from './support';

/** The examples of docs/loops.md, each played as it stands there. */
interface Example {
  line: number;
  section: string;
  kind: string;
  yaml: string;
  conversation: string | null;
}

const document = readFileSync(join(__dirname, '../../../docs/loops.md'), 'utf8');
const examples: Example[] = [];
let section = '';
for (const found of document.matchAll(/^##+ (.+)$|^```(?:yaml (\w+)|(conversation))\n([\s\S]*?)^```$/gm)) {
  const [, heading, kind, conversation, body] = found;
  if (heading) section = heading;
  else if (kind)
    examples.push({
      line: document.slice(0, found.index).split('\n').length,
      section,
      kind,
      yaml: body!,
      conversation: null,
    });
  else if (conversation) examples.at(-1)!.conversation = body!;
}

/**
 * A cue or step alone, in a loop around it; targets that are not shown become scenes that say their own id.
 */
function loopsOf({ kind, yaml }: Example): Loop[] {
  if (kind === 'loop') return yaml.split(/^---$/m).map(loopOf);
  const indented = (by: number) => yaml.trimEnd().replaceAll('\n', `\n${' '.repeat(by)}`);
  if (kind === 'cue')
    return [
      loopOf(
        `format: dart-loop/1\nname: Example\ncues:\n  - ${indented(4)}\nscenes:\n  - { name: One, steps: [{ kind: say, text: started }] }\n`,
      ),
    ];
  const targets = [
    ...new Set(
      [
        ...yaml.matchAll(
          /(?:\bto|otherwise|somethingElse|dontKnow|cancel|unknown|failed|full): ([a-z][a-z-]*)/g,
        ),
      ].map((match) => match[1]!),
    ),
  ].filter((to) => to !== 'next' && to !== 'end' && to !== 'bookings');
  const scenes = targets
    .map((to) => `  - { id: ${to}, name: ${to}, steps: [{ kind: say, text: (${to}) }] }\n`)
    .join('');
  // What comes after a step that leads on shows that it does.
  const after = /^kind: (ask|say|end)/.test(yaml) ? '' : '      - { kind: say, text: (done) }\n';
  return [
    loopOf(
      `format: dart-loop/1\nname: Example\ncues: [{ kind: keyword, words: [go], match: exactly }]\nscenes:\n  - name: One\n    steps:\n      - ${indented(8)}\n${after}${scenes}`,
    ),
  ];
}

test.each(examples.map((example) => [`${example.section}, line ${example.line}`, example] as const))(
  '%s',
  (_name, example) => {
    const loops = loopsOf(example);
    for (const loop of loops)
      expect(problemsOf(loop, { others: loops.filter((other) => other !== loop) })).toEqual([]);
    if (example.conversation === null) return expect(example.kind).toBe('cue');
    // Wednesday 25 November 2026, ten in the morning in London.
    const rehearsal = openRehearsal({
      loops,
      client: FERRIES,
      line: { key: 'telegram', name: 'the line', channel: 'telegram' },
      person: nobodyYet,
      now: Date.UTC(2026, 10, 25, 10),
      calendars: [trialSession()],
    });
    expect(performScript(rehearsal, example.conversation).failures).toEqual([]);
  },
);

test('every cue and step kind has its example', () => {
  const shown = examples.flatMap((example) =>
    [...example.yaml.matchAll(/kind: ([a-z ]+)/g)].map((match) => match[1]!.trim()),
  );
  const schema = JSON.parse(readFileSync(join(__dirname, '../../../docs/loop.schema.json'), 'utf8')) as {
    properties: Record<string, { items: { oneOf: { properties: { kind: { const: string } } }[] } }>;
  };
  const cues = schema.properties.cues!.items.oneOf.map((each) => each.properties.kind.const);
  for (const kind of cues) expect(shown).toContain(kind);
  for (const kind of [
    'say',
    'ask',
    'wait',
    'set',
    'split',
    'vary',
    'go',
    'hand over',
    'alert',
    'send out',
    'book',
    'end',
  ])
    expect(shown).toContain(kind);
});
