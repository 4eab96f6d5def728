import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join, relative } from 'node:path';
import { startMachines, type Machines } from '../../e2e/machines';
import { removeCluster, removeLeftClusters } from '../cluster';
import { Unusable, needPackages } from '../machine';
import { DATA, ROOT } from '../places';
import { startStack } from '../stack';

const BIN = join(ROOT, 'node_modules/.bin');
/**
 * Where Playwright leaves what belongs to a failure, and where in it what the page showed begins and ends.
 */
const BROWSER_OUTPUT = join(DATA, 'browser-output');
const PAGE_BEGINS = '```yaml';
const PAGE_ENDS = '# Test source';
const MOST_LINES = 150;
const MOST_COMPLAINTS = 40;

/** Parts that are run where they are named alone. */
const ON_DEMAND = ['machines'];
/** What a person does all day, and what is tried while servers are killed. */
const JOURNEYS = ['story', 'inbox', 'people', 'write', 'sync', 'bookings'].map(
  (name) => `e2e/${name}.spec.ts`,
);

/** What is measured is measured alone: these files run after the others, one at a time. */
const ALONE = ['server-alone'];
const BESIDE = ['core', 'server', 'web'];
/** One more than there are cores: part of what each does is waiting, for a database or a pause. */
const WORKERS = Math.max(2, availableParallelism() + 1);
const SLOWEST = 10;
/** How long everything may take on two cores. */
const WHOLE_MAY_TAKE_S = 45 * 60;

/** What a part of the tests came to, and how long each of its files took, where it has files. */
interface Part {
  passed: number;
  failed: number;
  files?: FileTime[];
}
interface FileTime {
  file: string;
  seconds: number;
}

/**
 * `./dartloop test [types|lint|unit|browser|machines] [FILE …] [--thorough]`: everything that is checked, one
 * part, or of a part the files whose paths contain one of the words; the part machines is run where it is
 * named. `--thorough`: properties are tried as often as they were while they were written. Ends by printing
 * the slowest files and the sum.
 */
export async function test(args: string[]): Promise<void> {
  const words = args.filter((word) => word !== '--thorough');
  const only = words[0];
  const files = words.slice(1);
  const started = Date.now();
  const folder = join(DATA, `browser-${process.pid}`);
  const ofMachines = `${folder}-machines`;
  const results = join(folder, 'results.json');
  if (args.length > words.length) process.env.DARTLOOP_THOROUGH = 'yes';
  const parts: Record<string, () => Promise<Part>> = {
    types: async () =>
      check([
        ['tsc', '-p', '.'],
        ['tsc', '-p', 'apps/web'],
      ]),
    lint: async () =>
      check([
        ['eslint', '--max-warnings', '0', '.'],
        ['prettier', '--check', '--log-level', 'warn', '.'],
      ]),
    unit: async () =>
      addUp([await jest(results, BESIDE, WORKERS, files), await jest(results, ALONE, 1, files)]),
    browser: () => inBrowser(folder, results, files),
    // In a world of its own: the journeys begin in one that nobody has been in.
    machines: () => inBrowser(ofMachines, results, files.length > 0 ? files : JOURNEYS, true),
  };
  if (only !== undefined && !(only in parts))
    throw new Unusable(
      `There is no part “${only}” of the tests; the parts are ${Object.keys(parts).join(', ')}.`,
    );
  if (files.length > 0 && (only === 'types' || only === 'lint'))
    throw new Unusable(
      `Files are named for the parts unit, browser and machines; “${only}” is checked as a whole.`,
    );
  needPackages({ browser: true, pooler: true }, console.log);
  removeLeftClusters();
  mkdirSync(folder, { recursive: true });
  const done: Part[] = [];
  try {
    for (const [name, part] of Object.entries(parts)) {
      if (only === undefined ? ON_DEMAND.includes(name) : only !== name) continue;
      const start = Date.now();
      console.log(`\n== ${name}`);
      const tally = await part();
      console.log(
        `== ${name}: ${tally.passed} passed, ${tally.failed} failed, in ${Math.round((Date.now() - start) / 1_000)} s`,
      );
      done.push(tally);
    }
  } finally {
    removeCluster(folder);
    removeCluster(ofMachines);
  }
  const sum = addUp(done);
  const slowest = sum.files!.sort((one, other) => other.seconds - one.seconds).slice(0, SLOWEST);
  if (slowest.length > 0) console.log('\nThe slowest files:');
  for (const { file, seconds } of slowest) console.log(`${seconds.toFixed(1).padStart(7)} s  ${file}`);
  const took = Math.round((Date.now() - started) / 1_000);
  if (took > WHOLE_MAY_TAKE_S)
    console.log(
      `\nAll of it took ${Math.round(took / 60)} minutes, which is more than the 45 that it may take.`,
    );
  console.log(`\n${sum.passed} passed, ${sum.failed} failed`);
  if (sum.failed > 0 || sum.passed === 0) process.exitCode = 1;
}

/**
 * The tests of some of Jest's projects that need no browser. `files`: those whose paths contain one of these;
 * all when there are none.
 */
async function jest(results: string, projects: string[], workers: number, files: string[]): Promise<Part> {
  rmSync(results, { force: true });
  const from = [
    '--json',
    `--outputFile=${results}`,
    '--forceExit',
    '--passWithNoTests',
    `--maxWorkers=${workers}`,
  ];
  const code = await run([join(BIN, 'jest'), ...files, ...from, '--selectProjects', ...projects]);
  const report = readReport<{
    numPassedTests: number;
    numFailedTests: number;
    numRuntimeErrorTestSuites: number;
    testResults: { name: string; startTime: number; endTime: number }[];
  }>(results);
  if (!report) return { passed: 0, failed: 1 };
  const failed = report.numFailedTests + report.numRuntimeErrorTestSuites;
  return {
    passed: report.numPassedTests,
    // What is wrong beside the tests, such as a start that failed, is a failure as well.
    failed: failed === 0 && code !== 0 ? 1 : failed,
    files: report.testResults.map(({ name, startTime, endTime }) => ({
      file: relative(ROOT, name),
      seconds: (endTime - startTime) / 1_000,
    })),
  };
}

/**
 * Journeys in the browser, against a demo of their own. `several`: against several servers and workers behind
 * a proxy, one of which is killed every few seconds.
 */
async function inBrowser(folder: string, results: string, files: string[], several = false): Promise<Part> {
  rmSync(results, { force: true });
  const stack = await startStack({
    folder,
    wishedPort: 0,
    world: true,
    web: true,
    step: (words) => console.log(`  ${words}`),
  });
  let machines: Machines | null = null;
  try {
    if (several) machines = await startMachines(stack, folder);
    const code = await run([join(BIN, 'playwright'), 'test', ...files], {
      ...(several && { DARTLOOP_BROWSER_KILLS: 'yes' }),
      DARTLOOP_BROWSER_ADDRESS: stack.address,
      DARTLOOP_BROWSER_STANDINS: stack.standins,
      DARTLOOP_BROWSER_DATABASE: stack.cluster.owner,
      PLAYWRIGHT_JSON_OUTPUT_FILE: results,
    });
    if (code !== 0) tellWhatWasSeen(folder);
    if (machines) console.log(`  ${machines.killed} times a server or a worker was killed meanwhile`);
  } finally {
    await machines?.stop();
    await stack.stop();
  }
  const report = readReport<{
    stats: { expected: number; unexpected: number; flaky: number };
    suites: Suite[];
  }>(results);
  if (!report) return { passed: 0, failed: 1 };
  return {
    passed: report.stats.expected + report.stats.flaky,
    failed: report.stats.unexpected,
    files: report.suites.map((suite) => ({ file: `e2e/${suite.file}`, seconds: secondsOf(suite) })),
  };
}

interface Suite {
  file: string;
  suites?: Suite[];
  specs?: { tests: { results: { duration: number }[] }[] }[];
}
const secondsOf = (suite: Suite): number =>
  (suite.specs ?? [])
    .flatMap(({ tests }) => tests)
    .flatMap((each) => each.results)
    .reduce((sum, { duration }) => sum + duration / 1_000, 0) +
  (suite.suites ?? []).reduce((sum, each) => sum + secondsOf(each), 0);

const addUp = (parts: Part[]): Part => ({
  passed: parts.reduce((sum, { passed }) => sum + passed, 0),
  failed: parts.reduce((sum, { failed }) => sum + failed, 0),
  files: parts.flatMap(({ files }) => files ?? []),
});

/** Runs programs beside each other, and shows what each printed once all are done. */
async function check(commands: [string, ...string[]][]): Promise<Part> {
  const done = await Promise.all(
    commands.map(async ([name, ...args]) => {
      const printed: string[] = [];
      const code = await run([join(BIN, name), ...args], {}, (piece) => printed.push(piece));
      return { code, printed: printed.join('').trimEnd() };
    }),
  );
  for (const { printed } of done) if (printed !== '') console.log(printed);
  const passed = done.filter(({ code }) => code === 0).length;
  return { passed, failed: done.length - passed };
}

/**
 * Runs a program in the checkout, showing what it prints, or telling it to `heard`. Ctrl+C reaches it too; it
 * is waited for.
 */
function run(
  [name, ...args]: string[],
  more: Record<string, string> = {},
  heard?: (piece: string) => void,
): Promise<number> {
  return new Promise((resolve) => {
    const out = heard ? 'pipe' : 'inherit';
    const child = spawn(name!, args, {
      cwd: ROOT,
      stdio: ['ignore', out, out],
      env: { ...process.env, CI: '1', NO_COLOR: '1', FORCE_COLOR: '0', ...more },
    });
    for (const stream of [child.stdout, child.stderr]) stream?.setEncoding('utf8').on('data', heard!);
    // Once all that it printed is heard as well.
    child.once('close', (code) => resolve(code ?? 1));
    child.once('error', () => resolve(1));
  });
}

/**
 * What stood on the pages where tests failed, and what the server complained of meanwhile: all there is to go
 * by where nobody looks on.
 */
function tellWhatWasSeen(folder: string): void {
  for (const file of readdirSync(BROWSER_OUTPUT, { recursive: true, encoding: 'utf8' }).filter((name) =>
    name.endsWith('error-context.md'),
  )) {
    const words = readFileSync(join(BROWSER_OUTPUT, file), 'utf8');
    const page = words.slice(Math.max(0, words.indexOf(PAGE_BEGINS))).split(PAGE_ENDS)[0]!;
    console.log(`\n-- ${file}\n${page.split('\n').slice(0, MOST_LINES).join('\n')}`);
  }
  const complaints = readFileSync(join(folder, 'server.log'), 'utf8')
    .split('\n')
    .filter((line) => /"level":[4-6]0/.test(line));
  console.log(
    `\n-- the server complained ${complaints.length} times\n${complaints.slice(-MOST_COMPLAINTS).join('\n')}`,
  );
}

function readReport<T>(file: string): T | null {
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T) : null;
}
