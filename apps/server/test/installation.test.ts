import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import pg from 'pg';
import type { LineRow } from '@dart-loop/contract';
import { startChild, type Child } from '../../../cli/children';
import { openCluster, removeCluster, type Cluster } from '../../../cli/cluster';
import { readBackup, writeBackup } from '../../../cli/commands/backup';
import { examine } from '../../../cli/commands/doctor';
import { environmentOf, isUnfounded, openInstallation } from '../../../cli/installation';
import { freePort } from '../../../cli/machine';
import { ROOT } from '../../../cli/places';
import { readSettings, type Settings } from '../../../cli/settings';
import { makeStandins, type Standins } from '../../standins/src/standins';
import { cluster as testCluster, until } from './support/stage';

/** What docs/running.md says to do, as it stands there. */
const PAGE = readFileSync(join(ROOT, 'docs/running.md'), 'utf8');
const block = (language: string, has: string): string =>
  [...PAGE.matchAll(new RegExp(`\`\`\`${language}\\n([^]*?)\`\`\``, 'g'))]
    .map(([, text]) => text!)
    .find((text) => text.includes(has))!;

const BOT = '7001200777';
const TOKEN = `${BOT}:${'t'.repeat(35)}`;
const KEY = '5e'.repeat(32);
const LOOP = `
format: dart-loop/1
name: Who is there
cues: [{ kind: keyword, words: [hello], match: exactly }]
scenes:
  - id: welcome
    name: Welcome
    steps:
      - { kind: ask, text: What is your name?, reply: text, field: said_name, otherwise: end }
      - kind: say
        text: 'Welcome aboard, {{ person.said_name }}. Ring {{ brief.phone }}.'
      - kind: end
`;

const folder = join(ROOT, '.data', `test-${process.pid}`, 'installation');
let machine: Cluster;
let standins: Standins;
let standinsServer: Server;
let standinsAddress: string;
let port: number;
let running: Child | null = null;

beforeAll(async () => {
  mkdirSync(folder, { recursive: true });
  machine = await openCluster(folder);
  // A machine on which nothing of ours has been yet: only PostgreSQL and whoever runs it.
  await asSuperuser(
    'drop database dartloop with (force)',
    'drop role dartloop_app',
    'drop role dartloop_lane',
  );
  standins = makeStandins();
  standinsServer = createServer(standins.app).listen(0, '127.0.0.1');
  await new Promise((resolve) => standinsServer.once('listening', resolve));
  await standins.mail.start();
  standinsAddress = `http://127.0.0.1:${(standinsServer.address() as AddressInfo).port}`;
  port = await freePort(0);
});
afterAll(async () => {
  await running?.stop();
  standinsServer.close();
  await standins.mail.stop();
  await machine.stop();
  removeCluster(folder);
});

async function asSuperuser(...statements: string[]): Promise<void> {
  const db = new pg.Client({ connectionString: machine.owner.replace(/\/[^/]+$/, '/postgres') });
  await db.connect();
  for (const statement of statements) await db.query(statement);
  await db.end();
}

/** The settings of the page, with what is this machine’s own: ports, and stand-ins for the platforms. */
function settingsFor(database: string): Settings {
  const file = join(folder, 'dartloop.env');
  const said = block('ini', 'DARTLOOP_DATABASE')
    .replace('https://loop.example.org', `http://127.0.0.1:${port}`)
    .replace('127.0.0.1:5432/dartloop', `127.0.0.1:${machine.port}/${database}`)
    .replace('0'.repeat(64), KEY);
  writeFileSync(
    file,
    `${said}
DARTLOOP_PORT=${port}
DARTLOOP_FOLDER=${join(folder, 'live')}
DARTLOOP_TELEGRAM=${standinsAddress}
DARTLOOP_MAIL=smtp://127.0.0.1:${standins.mail.port}
`,
  );
  return readSettings({ DARTLOOP_SETTINGS: file });
}

/** What `start` does, without the web app. */
async function start(settings: Settings): Promise<void> {
  const installation = await openInstallation(settings, () => undefined);
  const { server } = testCluster();
  const environment = environmentOf(settings, installation, {
    threads: server.replace('server.mjs', 'threads.mjs'),
    web: null,
  });
  running = await startChild(server, [], environment, join(settings.folder, 'server.log'));
}

let cookie = '';
async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`http://127.0.0.1:${port}/api${path}`, {
    method,
    headers: { 'content-type': 'application/json', cookie },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  cookie = answer.headers.getSetCookie()[0]?.split(';')[0] ?? cookie;
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text}`);
  return (text ? JSON.parse(text) : undefined) as T;
}
const heard = (who: string) =>
  standins.telegram
    .look(BOT, who)
    .filter(({ from }) => from !== 'person')
    .map(({ text }) => text);

test('from nothing to a keyword that is answered, a backup, a restore elsewhere, and the conversation goes on', async () => {
  for (const statement of block('sql', 'create role').split(';').slice(0, 2)) await asSuperuser(statement);
  const settings = settingsFor('dartloop');
  await start(settings);
  const installation = await openInstallation(settings, () => undefined);
  expect(await isUnfounded(installation.owner)).toBe(true);

  // The code stands in the log, as the page says.
  const log = await until(
    () => readFileSync(join(settings.folder, 'server.log'), 'utf8'),
    (text) => text.includes('"code"'),
  );
  const code = /"code":"([A-Z0-9-]+)"/.exec(log)![1]!;
  const founding = {
    agency: 'Tidewater Talk',
    name: 'Ada Quill',
    email: 'ada@tidewater.example',
    password: 'a lantern by the slipway',
  };
  await expect(ask('POST', '/first-run', { ...founding, code: 'WRONG-ONE' })).rejects.toThrow(
    /code: is not the code/,
  );
  await ask('POST', '/first-run', { ...founding, code: code.toLowerCase() });

  const { slug } = await ask<{ slug: string }>('POST', '/clients', {
    name: 'Orchard Lane Bakery',
    country: 'GB',
    timeZone: 'Europe/London',
    language: 'en',
  });
  const client = `/clients/${slug}`;
  await ask('PUT', `${client}/brief`, {
    name: 'Orchard Lane Bakery',
    brief: { phone: '+44 1632 960188' },
    country: 'GB',
    timeZone: 'Europe/London',
    languages: ['en'],
    openingHours: {},
  });
  const line = await ask<LineRow>('POST', `${client}/lines`, { channel: 'telegram', token: TOKEN });
  expect(line.webhook).toContain(`http://127.0.0.1:${port}/hooks/`);
  const { id } = await ask<{ id: string }>('POST', `${client}/loops/import`, { file: LOOP });
  await ask('POST', `${client}/loops/${id}/publish`, { revision: 1 });
  await standins.telegram.write(BOT, '64001', 'Mira', 'hello');
  await until(
    () => heard('64001'),
    (texts) => texts.length === 1,
  );

  const looks = await examine(settings, installation);
  expect(looks.filter(({ wrong }) => wrong)).toEqual([]);

  // While it runs.
  const file = join(folder, 'backup.tar');
  await writeBackup(settings, file);
  await expect(readBackup(settings, file)).rejects.toThrow(/has tables in it already/);
  await running!.stop();
  running = null;

  await asSuperuser("create database elsewhere owner agency encoding 'UTF8' template template0");
  const restored = settingsFor('elsewhere');
  await readBackup(restored, file);
  await start(restored);
  await standins.telegram.write(BOT, '64001', 'Mira', 'Mira Tidewell');
  expect(
    await until(
      () => heard('64001'),
      (texts) => texts.length === 2,
    ),
  ).toEqual(['What is your name?', 'Welcome aboard, Mira Tidewell. Ring +44 1632 960188.']);
  // Whoever was signed in still is, as sessions are in the backup too.
  expect(await ask('GET', '/session')).toMatchObject({ account: { name: 'Ada Quill' } });
  await running!.stop();
  running = null;

  // With another key nothing is started, and its sentence says why.
  const other = { ...restored, server: { ...restored.server, DARTLOOP_KEY: '11'.repeat(32) } };
  await expect(start(other)).rejects.toThrow(/ended before it was ready/);
  expect(readFileSync(join(restored.folder, 'server.log'), 'utf8')).toContain(
    'DARTLOOP_KEY is not the key that this database was set up with',
  );
  rmSync(file);
});

test('the owner of the database is no superuser, and neither of our roles owns or passes by anything', async () => {
  const db = new pg.Client({ connectionString: machine.owner.replace(/\/[^/]+$/, '/elsewhere') });
  await db.connect();
  const roles = await db.query(
    "select rolname, rolsuper, rolbypassrls from pg_roles where rolname in ('agency', 'dartloop_app', 'dartloop_lane') order by 1",
  );
  const owned = await db.query("select from pg_class where relowner::regrole::text like 'dartloop_%'");
  await db.end();
  expect(roles.rows).toEqual(
    ['agency', 'dartloop_app', 'dartloop_lane'].map((rolname) => ({
      rolname,
      rolsuper: false,
      rolbypassrls: false,
    })),
  );
  expect(owned.rowCount).toBe(0);
});
