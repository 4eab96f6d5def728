import { execFileSync, spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

// A process each on a shared machine: a bound, not an expectation.
jest.setTimeout(120_000);

const ROOT = join(__dirname, '../..');
const DARTLOOP = join(ROOT, 'dartloop');
let folder: string;
let commands: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'dart loop '));
  // Beside the checkout's packages, as some are not bundled.
  commands = join(ROOT, `.data/commands-${process.pid}.mjs`);
  execFileSync(
    join(ROOT, 'node_modules/.bin/esbuild'),
    [
      'cli/test/loopCommands.ts',
      '--bundle',
      '--platform=node',
      '--format=esm',
      '--log-level=error',
      '--external:unpdf',
      "--banner:js=import { createRequire as requiring } from 'node:module'; const require = requiring(import.meta.url);",
      `--outfile=${commands}`,
    ],
    { cwd: ROOT },
  );
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
  rmSync(commands, { force: true });
});

/** Runs a command as a person would, from a folder of their own: bundled, or by the script that they call. */
function run(
  args: string[],
  input = '',
  by: 'bundle' | 'script' = 'bundle',
): Promise<{ status: number | null; out: string; err: string }> {
  return new Promise((resolve) => {
    const env = { ...process.env, DARTLOOP_CALLED_FROM: folder };
    const child =
      by === 'script'
        ? spawn(DARTLOOP, args, { cwd: folder })
        : spawn(process.execPath, [commands, ...args], { cwd: folder, env });
    let out = '';
    let err = '';
    child.stdout.on('data', (piece) => (out += piece));
    child.stderr.on('data', (piece) => (err += piece));
    child.once('close', (status) => resolve({ status, out, err }));
    child.stdin.end(input);
  });
}
const file = (name: string, text: string) => writeFileSync(join(folder, name), text);

const TRIAL = `format: dart-loop/1
name: Trial
cues: [{ kind: keyword, words: [trial], match: exactly }, { kind: link, ref: poster }]
scenes:
  - name: Welcome
    steps:
      - kind: say
        text: 'Hi {{ person.first_name | default: "there" }}, {{ client.name }} here. Climbed before?'
        choices: [{ label: Never, to: size }, { label: Often, to: end }]
        noReply: { after: 3h, to: nudge }
  - { id: size, name: Size, steps: [{ kind: ask, text: Shoe size?, reply: number, field: size, noReply: { after: 1d, to: end } }, { kind: say, text: "Size {{ person.size }} is ready." }] }
  - { id: nudge, name: Nudge, steps: [{ kind: say, text: Still there? }] }
`;

test('play --json prints one object a line, by the server’s engine, with what each holds', async () => {
  file('trial.yaml', TRIAL);
  file('person.json', JSON.stringify({ firstName: 'Maren', fields: { size: 38 } }));
  file(
    'client.json',
    JSON.stringify({ name: 'Northgate Climbing', country: 'GB', timeZone: 'Europe/London' }),
  );
  const { status, out, err } = await run(
    [
      'play',
      'trial.yaml',
      '--on',
      'sms',
      '--as',
      'person.json',
      '--client',
      'client.json',
      '--at',
      '2026-11-25T10:00',
      '--json',
    ],
    'trial\n> Hi Maren, Northgate Climbing here.\n#1\nthirty nine\n> Size 39 is ready.\n',
    'script',
  );
  expect({ status, err }).toEqual({ status: 0, err: '' });
  const lines = out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  expect(lines.map((line) => line.from)).toEqual([
    'them',
    'stage',
    'us',
    'them',
    'stage',
    'us',
    'them',
    'stage',
    'us',
  ]);
  expect(lines[0]).toEqual({ at: '2026-11-25T10:00:00.000Z', from: 'them', text: 'trial' });
  expect(lines[1]).toMatchObject({
    text: '“trial” was heard exactly. Trial begins.',
    reason: 'Trial (other cue): “trial” was heard exactly.',
  });
  expect(lines[2]).toEqual({
    at: '2026-11-25T10:00:00.000Z',
    from: 'us',
    text: 'Hi Maren, Northgate Climbing here. Climbed before?\nA Never\nB Often\nWrite STOP to end these messages.',
    choices: ['Never', 'Often'],
    parts: 1,
  });
  expect(lines[3]).toMatchObject({ text: 'A' });
});

test('the clock is wound, references start loops, and an expectation that fails is status 1 with its line', async () => {
  file('trial.yaml', TRIAL);
  const wound = await run(['play', 'trial.yaml', '--json'], '/start poster\n+3h\n> Still there?\n');
  expect(wound).toMatchObject({ status: 0, err: '' });
  const failed = await run(['play', 'trial.yaml'], 'trial\n> Good evening\n');
  expect(failed.status).toBe(1);
  expect(failed.err).toMatch(/^Line 2: “Good evening” was expected, and we said “Hi there/);
});

test('input that cannot be used is status 2 with a sentence', async () => {
  file('trial.yaml', TRIAL);
  file(
    'broken.yaml',
    'format: dart-loop/1\nname: X\ncues: [{ kind: keyword, words: ["a(b"], match: pattern }]\nscenes: [{ name: One, steps: [{ kind: dance }] }]\n',
  );
  for (const [args, input, sentence] of [
    [['play', 'nowhere.yaml'], '', 'nowhere.yaml cannot be read: there is no such file.'],
    [['play', 'trial.yaml', '--on', 'fax'], '', '“fax” is no channel'],
    [['play', 'trial.yaml'], '[Never]\n', 'Line 1 of the conversation: there is nothing to tap yet.'],
    [['play', 'trial.yaml', '--at', 'soon'], '', '“soon” is no date and time'],
    [['play', 'trial.yaml', '--as', 'trial.yaml'], '', 'trial.yaml:1:1  The file has “format” and'],
    [['play'], '', 'Name at least one file'],
    [['check', 'trial.yaml', '--strict'], '', 'There is no option --strict'],
  ] as const) {
    const { status, err } = await run([...args], input);
    expect({ args, status }).toEqual({ args, status: 2 });
    expect(err).toContain(sentence);
  }
  const broken = await run(['check', 'broken.yaml']);
  expect(broken.status).toBe(2);
  expect(broken.out).toContain('broken.yaml:3:33  unusable');
  expect(broken.out).toContain('“a(b” is no pattern: missing closing ) at character 3');
  expect(broken.out).toContain('broken.yaml:4:39  unusable');
});

test('check tells findings with their places; one object a line with --json', async () => {
  file('trial.yaml', TRIAL);
  expect(await run(['check', 'trial.yaml'])).toEqual({
    status: 0,
    out: expect.stringMatching(/^Nothing found in the file\.\nNot looked at, as no client was named/),
    err: '',
  });
  file(
    'round.yaml',
    'format: dart-loop/1\nname: Round\ncues: [{ kind: keyword, words: [stop], match: exactly }]\nscenes:\n  - { id: a, name: A, steps: [{ kind: go, to: b }] }\n  - { id: b, name: B, steps: [{ kind: go, to: a }] }\n',
  );
  const { status, out } = await run(['check', 'trial.yaml', 'round.yaml', '--json']);
  expect(status).toBe(1);
  const findings = out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  expect(findings).toMatchObject([
    { file: 'round.yaml', line: 3, severity: 'warns', code: 'keyword never heard' },
    { file: 'round.yaml', line: 5, severity: 'stops', code: 'circle' },
  ]);
  const played = await run(['play', 'round.yaml'], 'stop\n');
  expect(played.status).toBe(1);
  expect(played.err).toContain('goes round without ever waiting');
});

const HALFMOON = `name: Northgate Climbing
country: GB
timeZone: Europe/London
openingHours: { monday: [{ from: "09:00", to: "17:00" }] }
fields: { size: number, email: email }
lines:
  - { key: text, channel: sms, name: Text line }
  - key: wa
    channel: whatsapp
    templates: [{ name: still_there, body: "Hello {{1}}, are you still there?", buttons: ["Yes"] }]
calendars: [{ name: Induction, hours: { monday: [{ from: "09:00", to: "17:00" }] }, length: 1h, ahead: 14d, places: 4 }]
destinations: [CRM]
segments: { big feet: size is at least 45 }
lists: [{ name: News, wording: May we write to you? }]
`;

test('a client’s file says all that surrounds a loop: lines, templates, calendars, destinations, lists and segments', async () => {
  file('client.yaml', HALFMOON);
  file(
    'asks.yaml',
    `format: dart-loop/1
name: Asks
cues: [{ kind: keyword, words: [induct], match: exactly }]
scenes:
  - name: One
    steps:
      - { kind: split, arms: [{ when: { segment: big feet }, to: large }], otherwise: time }
  - { id: large, name: Large, steps: [{ kind: say, text: "We have those too, {{ person.first_name }}." }] }
  - { id: time, name: Time, steps: [{ kind: book, calendar: Induction, text: When?, day: day, time: hour, full: end, noReply: { after: 1d, to: end } }] }
`,
  );
  const alone = await run(['check', 'asks.yaml']);
  expect(alone.out).toMatch(/Not looked at, as no client was named \(--client FILE\): .*calendars/);
  const known = await run(['check', 'asks.yaml', '--client', 'client.yaml']);
  expect(known.out).not.toContain('Not looked at');
  expect(known.out).toMatch(/asks\.yaml:8:\d+ {2}warns {2}may be empty: .*scene 2 \(Large\), step 1\./);
  file('person.yaml', 'first_name: Maren\nfields: { size: 46 }\n');
  const played = await run(
    ['play', 'asks.yaml', '--client', 'client.yaml', '--person', 'person.yaml', '--line', 'text'],
    'induct\n> We have those too, Maren.\n',
  );
  expect(played).toMatchObject({ status: 0, err: '' });
  expect(played.out).toContain('Northgate Climbing');
  const booked = await run(
    ['play', 'asks.yaml', '--client', 'client.yaml', '--on', 'whatsapp', '--at', '2026-11-25T10:00'],
    'induct\n> When?\n',
  );
  expect(booked).toMatchObject({ status: 0, err: '' });
});

test('keys that are not known are refused in every file, with their place', async () => {
  file('trial.yaml', TRIAL);
  file('client.yaml', `${HALFMOON}opening: always\n`);
  file('person.yaml', 'firstName: Maren\nshoe: 38\n');
  for (const [command, args, sentence] of [
    [
      'play',
      ['--client', 'client.yaml'],
      'client.yaml:15:1  The file has “opening”, which is not known there.',
    ],
    ['check', ['--person', 'person.yaml'], 'person.yaml:2:1  The file has “shoe”, which is not known there.'],
  ] as const) {
    const { status, err } = await run([command, 'trial.yaml', ...args]);
    expect({ command, status }).toEqual({ command, status: 2 });
    expect(err).toContain(sentence);
  }
  file('client.yaml', 'name: N\nsegments: { big: "size is (" }\n');
  expect((await run(['check', 'trial.yaml', '--client', 'client.yaml'])).err).toMatch(
    /client\.yaml:2:\d+ {2}“segments\.big”: the bracket “\(” at character 9 is not closed/,
  );
  expect((await run(['play', 'trial.yaml', '--client', 'nowhere.yaml'])).status).toBe(2);
});

test('a file may hold several loops, and a folder many files; what is found names file and place', async () => {
  mkdirSync(join(folder, 'all'));
  const call = (name: string, steps: string) =>
    `format: dart-loop/1\nname: ${name}\ncues: [{ kind: keyword, words: [${name}], match: exactly }]\nscenes: [{ name: One, steps: [${steps}] }]\n`;
  file(
    'all/two.yaml',
    `${call('Tick', '{ kind: go, loop: Tack }')}---\n${call('Tack', '{ kind: go, loop: Tock }')}`,
  );
  file('all/three.yaml', call('Tock', '{ kind: say, text: Tock. }'));
  file('all/client.yaml', 'name: Somebody\n');
  const played = await run(['play', 'all', '--client', 'all/client.yaml'], 'tick\n> Tock.\n');
  expect(played).toMatchObject({ status: 0, err: 'all/client.yaml is no loop file and is left out.\n' });
  file('all/three.yaml', call('Tock', '{ kind: go, loop: Tack }'));
  const checked = await run(['check', 'all']);
  expect(checked.status).toBe(1);
  expect(checked.out).toMatch(/all\/two\.yaml:9:\d+ {2}stops {2}circle: Loops go round/);
  const stopped = await run(['play', 'all'], 'tick\n');
  expect(stopped.status).toBe(1);
  expect(stopped.err).toMatch(/all\/three\.yaml:4:\d+ {2}stops {2}circle/);
});

test('play says what did not happen, takes an ad with its reference, and explains itself', async () => {
  file('trial.yaml', TRIAL);
  const { status, out } = await run(
    ['play', 'trial.yaml'],
    '~ tag VIP\n~ webhook paid\n/ad 1203 poster\n> Climbed before?\n',
  );
  expect(status).toBe(0);
  expect(out).toContain('(Nothing starts on the tag “VIP”.)');
  expect(out).toContain('(Nothing starts on the incoming webhook “paid”.)');
  for (const command of ['play', 'check']) {
    const help = await run([command, '--help']);
    expect(help).toMatchObject({ status: 0, err: '' });
    expect(help.out).toContain(`./dartloop ${command} FILE…`);
    expect(help.out).toContain('--client');
  }
});

test('play answers from a folder of sources, and says what that folder lacks', async () => {
  file(
    'asking.yaml',
    `format: dart-loop/1
name: Asking
cues: [{ kind: keyword, words: [ask], match: first word }]
scenes: [{ id: one, name: One, steps: [{ kind: answer, person: end, noReply: { after: 1d, to: end } }] }]
`,
  );
  mkdirSync(join(folder, 'site'), { recursive: true });
  file('site/boats.md', '# Boats\n\n## Dogs\n\nDogs travel free, on a lead.\n');
  const said =
    'ask are dogs allowed\n> Dogs travel free, on a lead.\nwho painted it\n> I do not know that.\n';
  expect(await run(['play', 'asking.yaml', '--sources', 'site'], said)).toMatchObject({ status: 0 });
  const { status, err } = await run(['play', 'asking.yaml', '--sources', 'nowhere'], said);
  expect([status, err]).toEqual([2, expect.stringContaining('nowhere is no folder')]);
});

test('a file that is no YAML has one reason, however many mistakes follow from it', async () => {
  file('broken.yaml', `format: dart-loop/1\nname: [X\n${'a: b: c\n'.repeat(80)}`);
  const { status, out } = await run(['check', 'broken.yaml']);
  expect(status).toBe(2);
  expect(out.match(/broken\.yaml:/g)).toHaveLength(1);
});

test('a merge field that does not exist stops the loop before anything is played', async () => {
  file('merge.yaml', TRIAL.replace('person.first_name', 'persn.first_name'));
  expect((await run(['check', 'merge.yaml'])).status).toBe(1);
  expect((await run(['play', 'merge.yaml'], 'trial\n')).status).toBe(1);
});

test('a single step or cue is played in a loop around it, and its places are the file’s', async () => {
  file('step.yaml', 'kind: ask\ntext: Which shoe size?\nreply: number\nfield: size\notherwise: desk\n');
  const { status, out } = await run(['play', 'step.yaml'], 'go\n> Which shoe size?\nfour\nfour\n');
  expect(out).not.toContain('(desk)');
  expect(status).toBe(0);
  file('cue.yaml', 'kind: keyword\nwords: ["a(b"]\nmatch: pattern\n');
  const wrong = await run(['check', 'cue.yaml']);
  expect(wrong.status).toBe(2);
  expect(wrong.out).toMatch(/^cue\.yaml:2:9 /);
});
