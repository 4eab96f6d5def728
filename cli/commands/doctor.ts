import { statfsSync } from 'node:fs';
import { connect } from 'node:tls';
import { createTransport } from 'nodemailer';
import { canSignIn } from '../../apps/server/src/platform/db/roles';
import { Keyring } from '../../apps/server/src/platform/keyring';
import { ask } from '../database';
import { environmentOf, openInstallation, type Installation } from '../installation';
import { readSettings, type Settings } from '../settings';

/** What was looked at: null when it is well, else what is wrong and what to do. */
interface Look {
  name: string;
  wrong: string | null;
}
const GB = 1_073_741_824;
const LEAST_DISK = 5 * GB;
const MOST_DRIFT_MS = 5_000;
const CERTIFICATE_DAYS = 14;
const OLDEST_POSTGRES = 15;

/**
 * `./dartloop doctor`: looks at everything that an installation needs, and says what is wrong and what to do.
 */
export async function doctor(): Promise<number> {
  const settings = readSettings();
  console.log(`Settings: ${settings.file ?? 'from the environment alone'}`);
  const installation = await openInstallation(settings, (words) => console.log(words));
  try {
    const looks = await examine(settings, installation);
    const width = Math.max(...looks.map(({ name }) => name.length));
    for (const { name, wrong } of looks)
      console.log(`${wrong ? '✗' : '✓'} ${name.padEnd(width)}  ${wrong ?? 'well'}`);
    const count = looks.filter(({ wrong }) => wrong).length;
    console.log(count === 0 ? 'Everything fits.' : `${count} of ${looks.length} need looking after.`);
    return count === 0 ? 0 : 1;
  } finally {
    await installation.stop();
  }
}

/** Every look, in order; none keeps another from being made. */
export async function examine(settings: Settings, installation: Installation): Promise<Look[]> {
  const address = settings.server.DARTLOOP_ADDRESS ?? '';
  const looks: [name: string, look: () => string | null | Promise<string | null>][] = [
    ['settings', () => settingsFit(settings, installation)],
    ['database', () => databaseFits(installation.owner)],
    ['roles', () => rolesFit(installation)],
    ['key', () => keyFits(installation)],
    ['clock', () => clockFits(installation.owner)],
    ['disk', () => diskFits(settings.folder)],
    ['address', () => addressAnswers(address)],
    ['certificate', () => certificateFits(address)],
    ['mail', () => mailAnswers(settings.server.DARTLOOP_MAIL)],
  ];
  const made: Look[] = [];
  for (const [name, look] of looks)
    made.push({
      name,
      wrong: await Promise.resolve()
        .then(look)
        .catch((error: Error) => error.message),
    });
  return made;
}

function settingsFit(settings: Settings, installation: Installation): null {
  environmentOf(settings, installation, { threads: '', web: null });
  return null;
}

async function databaseFits(owner: string): Promise<string | null> {
  const [row] = await ask<{ version: number; encoding: string }>(
    owner,
    "select current_setting('server_version_num')::int / 10000 as version, current_setting('server_encoding') as encoding",
  );
  if (row!.version < OLDEST_POSTGRES)
    return `PostgreSQL ${row!.version} is too old; ${OLDEST_POSTGRES} or newer is needed.`;
  return row!.encoding === 'UTF8' ? null : `The encoding is ${row!.encoding}; make the database with UTF8.`;
}

async function rolesFit({ owner, app, lane }: Installation): Promise<string | null> {
  const rows = await ask<{ name: string }>(
    owner,
    "select rolname as name from pg_roles where rolname in ('dartloop_app', 'dartloop_lane') and (rolsuper or rolbypassrls)",
  );
  if (rows.length > 0)
    return `${rows.map(({ name }) => name).join(' and ')} may read past row-level security; take that right away.`;
  for (const [name, url] of Object.entries({ dartloop_app: app, dartloop_lane: lane }))
    if (!(await canSignIn(url))) return `${name} cannot sign in; look at pg_hba.conf.`;
  return null;
}

async function keyFits({ lane, key }: Installation): Promise<null> {
  await Keyring.open(lane, Buffer.from(key, 'hex'));
  return null;
}

/** Windows and quiet hours hang on it; the database's clock is the only other one that can be asked. */
async function clockFits(owner: string): Promise<string | null> {
  const [row] = await ask<{ now: Date }>(owner, 'select clock_timestamp() as now');
  const drift = Math.abs(row!.now.getTime() - Date.now());
  return drift <= MOST_DRIFT_MS
    ? null
    : `This machine’s clock and the database’s are ${Math.round(drift / 1_000)} s apart; let both follow a time server.`;
}

function diskFits(folder: string): string | null {
  const { bavail, bsize } = statfsSync(folder);
  const free = bavail * bsize;
  return free >= LEAST_DISK ? null : `Only ${(free / GB).toFixed(1)} GB are free at ${folder}.`;
}

async function addressAnswers(address: string): Promise<string | null> {
  if (!address) return 'DARTLOOP_ADDRESS is missing.';
  const answer = await fetch(new URL('/healthz', address), { signal: AbortSignal.timeout(10_000) }).catch(
    () => null,
  );
  if (!answer)
    return `${address} does not answer from here. Is Dart Loop started, and does the proxy lead to it?`;
  return answer.ok ? null : `${address}/healthz answered ${answer.status}.`;
}

function certificateFits(address: string): Promise<string | null> | string | null {
  const { protocol, hostname, port } = new URL(address);
  if (protocol !== 'https:')
    return /^(localhost|127\.|\[::1\])/.test(hostname)
      ? null
      : 'The address is not https; the platforms call no other, and sessions could be read on the way.';
  return new Promise((resolve) => {
    const socket = connect({
      host: hostname,
      port: Number(port || 443),
      servername: hostname,
      timeout: 10_000,
    });
    socket.once('secureConnect', () => {
      const days = (Date.parse(socket.getPeerCertificate().valid_to) - Date.now()) / 86_400_000;
      socket.destroy();
      resolve(
        days >= CERTIFICATE_DAYS ? null : `The certificate ends in ${Math.floor(days)} days; renew it.`,
      );
    });
    socket.once('timeout', () => socket.destroy(new Error('no answer within 10 s')));
    socket.once('error', (error) => resolve(`The certificate does not hold: ${error.message}.`));
  });
}

async function mailAnswers(server: string | undefined): Promise<string | null> {
  if (!server)
    return 'DARTLOOP_MAIL is not set: invitations, new passwords and alerts by mail have to be handed over by hand.';
  const transport = createTransport(server, { connectionTimeout: 5_000 });
  try {
    await transport.verify();
    return null;
  } catch (error) {
    return `The mail server does not take us: ${(error as Error).message}.`;
  } finally {
    transport.close();
  }
}
