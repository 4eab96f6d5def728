import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { removeCluster, removeLeftClusters } from '../cluster';
import { needPackages } from '../machine';
import { DATA, ROOT } from '../places';
import { startStack } from '../stack';

interface Tally {
  passed: number;
  failed: number;
}

const BIN = join(ROOT, 'node_modules/.bin');
/** Where Playwright leaves what belongs to a failure, and where in it what the page showed begins and ends. */
const BROWSER_OUTPUT = join(DATA, 'browser-output');
const PAGE_BEGINS = '```yaml';
const PAGE_ENDS = '# Test source';
const MOST_LINES = 150;
const MOST_COMPLAINTS = 40;

/** `./dartloop test [types|lint|unit|browser …]`: everything that is checked, or only the parts named. Ends by printing the sum. */
export async function test(only: string[]): Promise<void> {
  needPackages({ browser: true }, console.log);
  removeLeftClusters();
  const folder = join(DATA, `browser-${process.pid}`);
  mkdirSync(folder, { recursive: true });
  const results = join(folder, 'results.json');
  const parts: Record<string, () => Promise<Tally>> = {
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
    unit: async () => {
      await run([join(BIN, 'jest'), '--json', `--outputFile=${results}`, '--forceExit']);
      const report = readReport<{ numPassedTests: number; numFailedTests: number; numRuntimeErrorTestSuites: number }>(results);
      return report
        ? { passed: report.numPassedTests, failed: report.numFailedTests + report.numRuntimeErrorTestSuites }
        : { passed: 0, failed: 1 };
    },
    browser: async () => {
      const stack = await startStack({ folder, wishedPort: 0, world: true, web: true, step: (words) => console.log(`  ${words}`) });
      try {
        const code = await run([join(BIN, 'playwright'), 'test'], {
          DARTLOOP_BROWSER_ADDRESS: stack.address,
          DARTLOOP_BROWSER_DATABASE: stack.cluster.owner,
          PLAYWRIGHT_JSON_OUTPUT_FILE: results,
        });
        if (code !== 0) tellWhatWasSeen(folder);
      } finally {
        await stack.stop();
      }
      const report = readReport<{ stats: { expected: number; unexpected: number; flaky: number } }>(results);
      return report ? { passed: report.stats.expected + report.stats.flaky, failed: report.stats.unexpected } : { passed: 0, failed: 1 };
    },
  };
  const unknown = only.filter((name) => !(name in parts));
  if (unknown.length > 0) throw new Error(`There is no part “${unknown[0]}” of the tests; the parts are ${Object.keys(parts).join(', ')}.`);
  const sum: Tally = { passed: 0, failed: 0 };
  try {
    for (const [name, part] of Object.entries(parts)) {
      if (only.length > 0 && !only.includes(name)) continue;
      const start = Date.now();
      console.log(`\n== ${name}`);
      rmSync(results, { force: true });
      const tally = await part();
      console.log(`== ${name}: ${tally.passed} passed, ${tally.failed} failed, in ${Math.round((Date.now() - start) / 1_000)} s`);
      sum.passed += tally.passed;
      sum.failed += tally.failed;
    }
  } finally {
    removeCluster(folder);
  }
  console.log(`\n${sum.passed} passed, ${sum.failed} failed`);
  if (sum.failed > 0 || sum.passed === 0) process.exitCode = 1;
}

async function check(commands: [string, ...string[]][]): Promise<Tally> {
  const tally = { passed: 0, failed: 0 };
  for (const [name, ...args] of commands) tally[(await run([join(BIN, name), ...args])) === 0 ? 'passed' : 'failed']++;
  return tally;
}

/** Runs a program in the checkout, showing what it prints. Ctrl+C reaches it too; it is waited for. */
function run([name, ...args]: string[], more: Record<string, string> = {}): Promise<number> {
  return new Promise((resolve) => {
    const child = spawn(name!, args, {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, CI: '1', NO_COLOR: '1', FORCE_COLOR: '0', ...more },
    });
    child.once('exit', (code) => resolve(code ?? 1));
    child.once('error', () => resolve(1));
  });
}

/** What stood on the pages where tests failed, and what the server complained of meanwhile: all there is to go by where nobody looks on. */
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
  console.log(`\n-- the server complained ${complaints.length} times\n${complaints.slice(-MOST_COMPLAINTS).join('\n')}`);
}

function readReport<T>(file: string): T | null {
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T) : null;
}
