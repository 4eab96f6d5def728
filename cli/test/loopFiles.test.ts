import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

// A process each on a shared machine: a bound, not an expectation.
jest.setTimeout(120_000);

const DARTLOOP = join(__dirname, '../../dartloop');
let folder: string;
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'dart loop '))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Runs the command as a person would, from a folder of their own. */
function run(args: string[], input = ''): Promise<{ status: number | null; out: string; err: string }> {
  return new Promise((resolve) => {
    const child = spawn(DARTLOOP, args, { cwd: folder });
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
    [['play', 'trial.yaml', '--as', 'trial.yaml'], '', 'trial.yaml is not JSON'],
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
    out: 'Nothing found in the file.\n',
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
