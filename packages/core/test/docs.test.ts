import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { problemsOf, type Loop } from '../src';
import { openRehearsal } from '../src/engine/rehearsal/rehearsal';
import { loopAround } from '../src/loops/file/alone';
import { readClientFile } from '../src/loops/file/clientFile';
import { performScript } from './performScript';
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
const clients: string[] = [];
let section = '';
for (const found of document.matchAll(/^##+ (.+)$|^```(?:yaml (\w+)|(conversation))\n([\s\S]*?)^```$/gm)) {
  const [, heading, kind, conversation, body] = found;
  if (heading) section = heading;
  else if (kind === 'client') clients.push(body!);
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

function loopsOf({ kind, yaml }: Example): Loop[] {
  return kind === 'loop' ? yaml.split(/^---$/m).map(loopOf) : [loopOf(loopAround(yaml)!.file)];
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

test('the client’s file can be read as it stands there', () => {
  expect(clients.map(readClientFile)).toMatchObject([{ ok: true }]);
});

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
    'answer',
    'end',
  ])
    expect(shown).toContain(kind);
});
