import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import pg from 'pg';
import type { PeoplePage, TaskView, UploadPage } from '@dart-loop/contract';
import { Api } from '../cli/api';
import { buildServers, buildWeb } from '../cli/build';
import { startChild, type Child } from '../cli/children';
import { openCluster } from '../cli/cluster';
import { demoFile } from '../cli/demo/people';
import { chromium as browserPath, freePort, sleep } from '../cli/machine';
import { mailPortOf } from '../cli/standins';
import { serverEnvironment } from '../cli/stack';
import { makeAgency } from '../cli/demo/agency';
import { median, print } from './figures';
import { CLIENT_ID, TOWNS, fillMillion, segments, writeTally } from './segments';
import { signInDemo } from '../cli/browser';

const TRIES = 7;
const IMPORTED = 100_000;
const BIG = 'saltmarsh-ferries';
/** Turns of the wheel, and from when on a frame has been missed at 60 a second. */
const WHEELS = 150;
const LATE_MS = 34;
const LIST = 'northgate-climbing';

/** Segments counted over a million people, a file of 100,000 brought in, and the first rows of that list. */
export async function people(folder: string): Promise<void> {
  const cluster = await openCluster(folder);
  const built = await buildServers(join(folder, 'build'));
  const standins = await startChild(built.standins, [], {}, join(folder, 'standins.log'));
  let server: Child | null = null;
  const db = new pg.Client({ connectionString: cluster.owner });
  await db.connect();
  try {
    await makeAgency(cluster.owner);
    const environment = serverEnvironment({
      cluster,
      port: await freePort(0),
      standins: standins.address,
      mailPort: await mailPortOf(standins.address),
      threads: built.threads,
      web: await buildWeb((words) => console.log(`(${words})`)),
      log: 'error',
    });
    server = await startChild(built.server, [], environment, join(folder, 'server.log'));
    const api = await Api.signIn(server.address, 'owner');
    await bringIn(api, server);
    // The work that it leaves behind is done by and by; the browser has a machine of its own elsewhere.
    await writeTally(
      db,
      (await db.query<{ id: number }>('select id from client where slug = $1', [LIST])).rows[0]!.id,
    );
    await scroll(server.address);
    await fillMillion(db);
    await writeTally(db, CLIENT_ID);
    await segments(cluster.app);
    await takeAllOut(api, server);
  } finally {
    await db.end();
    await server?.stop();
    await standins.stop();
    await cluster.stop();
  }
}

async function bringIn(api: Api, server: Child): Promise<void> {
  const names = {
    first: Array.from({ length: 211 }, (_, n) => `First${n}`),
    last: Array.from({ length: 307 }, (_, n) => `Last${n}`),
  };
  const csv = new TextEncoder().encode(
    demoFile(
      {
        name: 'x',
        count: IMPORTED,
        towns: TOWNS,
        tag: 'x',
        stated: 'x',
        optIn: [],
        columns: ['Visits', 'Own shoes'],
      },
      names,
      1,
      Date.now(),
    ),
  );
  const before = peakOf(server);
  const began = performance.now();
  const page = await api.file<UploadPage>(`/clients/${LIST}/people/files?name=big.csv`, csv);
  const { id } = await api.post<TaskView>(`/clients/${LIST}/people/imports`, {
    uploadId: page.id,
    encoding: page.encoding,
    separator: page.separator,
    uses: page.columns.map((column) => column.use),
    known: 'file wins',
    tags: ['brought in'],
    dry: false,
  });
  for (;;) {
    const task = await api.get<TaskView>(`/clients/${LIST}/tasks/${id}`);
    if (task.state === 'done') break;
    if (task.state === 'failed') throw new Error(task.failure ?? 'the import failed');
    await sleep(100);
  }
  const seconds = (performance.now() - began) / 1_000;
  print(
    'people brought in from a CSV file of 100,000, rows/s',
    IMPORTED / seconds,
    `${(csv.length / 1e6).toFixed(1)} MB in ${seconds.toFixed(1)} s; peak memory ${before} MB before, ${peakOf(server)} MB after`,
  );
  const times: number[] = [];
  for (let at = 0; at < TRIES; at++) {
    const from = performance.now();
    const { rows } = await api.get<PeoplePage>(`/clients/${LIST}/people`);
    if (rows.length < 50) throw new Error('the list has no rows');
    times.push(performance.now() - from);
  }
  print('first rows of a list of 100,000 people, ms', median(times), 'by HTTP; reach 300');
  const taken = performance.now();
  const text = await api.text(`/clients/${LIST}/people/export?format=csv`);
  print(
    'people taken out as CSV, rows/s',
    IMPORTED / ((performance.now() - taken) / 1_000),
    `${(text.length / 1e6).toFixed(1)} MB; peak memory ${peakOf(server)} MB`,
  );
}

/** The list scrolled by its wheel, as fast as somebody looking for a name would; how its frames come. */
async function scroll(address: string): Promise<void> {
  const browser = await chromium.launch({
    executablePath: browserPath()!,
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, baseURL: address });
    await signInDemo(page.request, 'builder');
    await page.goto(`/${LIST}/people`);
    await page.getByRole('link', { name: /First/ }).first().waitFor();
    // As text: it runs in the page, where nothing of ours is.
    await page.evaluate(`{
      window.frames_ = [];
      let last = performance.now();
      const next = (now) => {
        window.frames_.push(now - last);
        last = now;
        requestAnimationFrame(next);
      };
      requestAnimationFrame(next);
    }`);
    await page.mouse.move(700, 500);
    for (let at = 0; at < WHEELS; at++) {
      await page.mouse.wheel(0, 400);
      await page.waitForTimeout(40);
    }
    const frames = await page.evaluate<number[]>('window.frames_');
    const late = frames.filter((ms) => ms > LATE_MS);
    print(
      'a list of 100,000 people scrolled, frames that came late, %',
      (late.length / frames.length) * 100,
      `of ${frames.length} frames over ${(WHEELS * 400).toLocaleString('en-GB')} px, median ${median(frames).toFixed(1)} ms, longest ${Math.max(...frames).toFixed(0)} ms; reach 0`,
    );
  } finally {
    await browser.close();
  }
}

/** A million people as CSV, counted as they come: neither side holds them. */
async function takeAllOut(api: Api, server: Child): Promise<void> {
  const before = peakOf(server);
  const began = performance.now();
  const { lines, bytes } = await api.lines(`/clients/${BIG}/people/export?format=csv`);
  const seconds = (performance.now() - began) / 1_000;
  print(
    '1,000,000 people taken out as CSV, rows/s',
    (lines - 1) / seconds,
    `${(bytes / 1e6).toFixed(0)} MB in ${seconds.toFixed(1)} s; peak memory ${before} MB before, ${peakOf(server)} MB after`,
  );
}

/** The most memory that a process has had, in MB. */
function peakOf({ process: { pid } }: Child): number {
  return Math.round(
    Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1_024,
  );
}
