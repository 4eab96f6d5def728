import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { build, type BuildOptions } from 'esbuild';
import { BUILD, DATA, ROOT } from './places';
import { compressFiles, makeFonts, noteScreens } from './webFiles';
import { Stop, isAlive, sleep } from './machine';

/**
 * Packages that stay in node_modules: they start files of their own by path, are rarely asked for, or
 * need not be there. Everything else goes into the bundle, as hundreds of small files take three times as
 * long to load as one.
 */
const LEFT_OUT = ['sharp', 'piscina', 'pino', 'pg-native', 'unpdf'];

/** How an entry is bundled into one file. */
function bundle(entry: string, outfile: string): BuildOptions & { outfile: string } {
  return {
    entryPoints: [join(ROOT, entry)],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    sourcemap: 'linked',
    sourcesContent: false,
    minifyWhitespace: true,
    external: LEFT_OUT,
    // What packages of the older kind require of Node.js itself.
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    logLevel: 'error',
  };
}

export const serverBundle = (folder = BUILD) => bundle('apps/server/src/main.ts', join(folder, 'server.mjs'));

/** Bundles the server and the stand-ins. Takes well under a second. */
export async function buildServers(
  folder = BUILD,
): Promise<{ server: string; standins: string; threads: string }> {
  mkdirSync(folder, { recursive: true });
  const options = [
    serverBundle(folder),
    bundle('apps/standins/src/main.ts', join(folder, 'standins.mjs')),
    bundle('apps/server/src/platform/threads/jobs.ts', join(folder, 'threads.mjs')),
  ] as const;
  for (const each of options) await buildWhole(each);
  return { server: options[0].outfile, standins: options[1].outfile, threads: options[2].outfile };
}

/**
 * Builds, and puts each file in its place at once, or leaves it where it is the same: a process that runs
 * from there never reads half of one.
 */
async function buildWhole(options: BuildOptions): Promise<void> {
  const { outputFiles = [] } = await build({ ...options, write: false });
  for (const { path, contents } of outputFiles) {
    if (existsSync(path) && readFileSync(path).equals(contents)) continue;
    const part = `${path}.${process.pid}.part`;
    writeFileSync(part, contents);
    renameSync(part, path);
  }
}

/** Bundles one script as the server is bundled, so that its figures are those of the code that runs. */
export async function buildScript(entry: string, folder: string): Promise<string> {
  mkdirSync(folder, { recursive: true });
  const options = bundle(entry, join(folder, `${entry.replaceAll('/', '-').replace(/\.ts$/, '')}.mjs`));
  await buildWhole(options);
  return options.outfile;
}

/** Everything the web app is made of, as one fingerprint. */
function webFingerprint(): string {
  const hash = createHash('sha256');
  const visit = (path: string) => {
    for (const entry of readdirSync(path, { withFileTypes: true }).sort((a, b) =>
      a.name.localeCompare(b.name),
    )) {
      if (
        ['node_modules', 'dist', '.expo', 'test'].includes(entry.name) ||
        /\.test\.tsx?$/.test(entry.name) ||
        entry.name === 'expo-env.d.ts'
      )
        continue;
      const full = join(path, entry.name);
      if (entry.isDirectory()) visit(full);
      else hash.update(`${full.slice(ROOT.length)}\0`).update(readFileSync(full));
    }
  };
  visit(join(ROOT, 'apps/web'));
  visit(join(ROOT, 'packages'));
  hash.update(readFileSync(join(ROOT, 'package-lock.json')));
  hash.update(readFileSync(join(ROOT, 'cli/webFiles.ts')));
  return hash.digest('hex').slice(0, 16);
}

/**
 * The folder of the exported web app; exported when its sources have changed. Two commands never export at
 * once.
 */
export async function buildWeb(say: (words: string) => void): Promise<string> {
  await makeFonts(join(ROOT, 'apps/web'));
  const folder = join(BUILD, `web-${webFingerprint()}`);
  if (existsSync(join(folder, 'index.html'))) return folder;
  mkdirSync(BUILD, { recursive: true });
  await withLock(join(BUILD, 'web.lock'), async () => {
    if (existsSync(join(folder, 'index.html'))) return;
    say('exporting the web app (two to three minutes the first time, seconds later)');
    await exportWeb(join(ROOT, 'apps/web'), `${folder}.new`);
    noteScreens(`${folder}.new`);
    await compressFiles(`${folder}.new`);
    for (const entry of readdirSync(BUILD))
      if (
        entry.startsWith('web-') &&
        !entry.endsWith('.new') &&
        Date.now() - statSync(join(BUILD, entry)).mtimeMs > 86_400_000
      )
        rmSync(join(BUILD, entry), { recursive: true, force: true });
    renameSync(`${folder}.new`, folder);
  });
  return folder;
}

/** Exports an Expo app for the web into `to`. Also used for the empty app that the bench measures against. */
export async function exportWeb(app: string, to: string): Promise<void> {
  rmSync(to, { recursive: true, force: true });
  const logFile = join(DATA, 'export.log');
  const log = openSync(logFile, 'w');
  const status = await new Promise<number | null>((resolve) => {
    const child = spawn(
      process.execPath,
      [
        join(ROOT, 'node_modules/expo/bin/cli'),
        'export',
        '--platform',
        'web',
        '--source-maps',
        '--output-dir',
        to,
      ],
      {
        cwd: app,
        stdio: ['ignore', log, log],
        env: {
          ...process.env,
          CI: '1',
          NODE_ENV: 'production',
          EXPO_OFFLINE: '1',
          EXPO_NO_TELEMETRY: '1',
          EXPO_NO_DEPENDENCY_VALIDATION: '1',
          EXPO_NO_DOTENV: '1',
        },
      },
    );
    child.once('exit', resolve);
    child.once('error', () => resolve(1));
  });
  if (status !== 0 || !existsSync(join(to, 'index.html')))
    throw new Stop(
      `The web app could not be exported. From ${logFile}:\n${readFileSync(logFile, 'utf8').slice(-3_000)}`,
    );
}

/** Runs `work` while no other process holds the lock; a lock whose holder is gone does not count. */
async function withLock(file: string, work: () => Promise<void>): Promise<void> {
  for (;;) {
    try {
      writeFileSync(file, String(process.pid), { flag: 'wx' });
      break;
    } catch {
      const holder = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
      if (!holder || !isAlive(holder)) rmSync(file, { force: true });
      await sleep(300);
    }
  }
  try {
    await work();
  } finally {
    rmSync(file, { force: true });
  }
}
