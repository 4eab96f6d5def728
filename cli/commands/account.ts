import type pg from 'pg';
import { Email } from '@dart-loop/contract/accounts';
import { makeLink, type For } from '../../apps/server/src/accounts/links';
import { changeMember } from '../../apps/server/src/accounts/members';
import { endFactor } from '../../apps/server/src/accounts/secondFactor';
import { auditAgency } from '../../apps/server/src/platform/db/agencyAudit';
import { withDatabase } from '../database';
import { openInstallation } from '../installation';
import { Stop } from '../machine';
import { readSettings } from '../settings';

const USAGE = `./dartloop account owner EMAIL    makes somebody an owner of everything, and prints their link
./dartloop account unlock EMAIL   forgets wrong passwords and the second factor, and prints a link`;

/** `./dartloop account`: for whoever has the machine, when nobody can sign in any more. */
export async function account(args: string[]): Promise<void> {
  const [what, typed, ...rest] = args;
  if ((what !== 'owner' && what !== 'unlock') || !typed || rest.length > 0) throw new Stop(USAGE);
  const email = Email.safeParse(typed);
  if (!email.success) throw new Stop(`“${typed}” is no email address.`);
  const settings = readSettings();
  const installation = await openInstallation(settings, (words) => console.log(words));
  try {
    const link = await withDatabase(installation.owner, async (db) => {
      await db.query('begin');
      const made = await (what === 'owner' ? makeOwner(db, email.data) : unlock(db, email.data));
      await db.query('commit');
      return made;
    });
    const address = (settings.server.DARTLOOP_ADDRESS ?? '').replace(/\/$/, '');
    console.log(`${link.words}\n\n  ${address}/welcome/${link.token}\n`);
  } finally {
    await installation.stop();
  }
}

interface Found {
  id: number;
  agency_id: number;
}
const find = async (db: pg.Client, email: string): Promise<Found | undefined> =>
  (await db.query<Found>('select id, agency_id from account where email = $1 and left_at is null', [email]))
    .rows[0];

async function makeOwner(db: pg.Client, email: string): Promise<{ words: string; token: string }> {
  const known = await find(db, email);
  if (known) {
    await changeMember(db, known.agency_id, known.id, { role: 'owner', grants: [], clients: 'all' });
    await note(db, known.agency_id, 'was made an owner from the shell', email);
    return linkFor(
      db,
      known.agency_id,
      { kind: 'password', accountId: known.id },
      `${email} is an owner now.`,
    );
  }
  const { rows } = await db.query<{ id: number }>('select id from agency order by id limit 1');
  if (!rows[0])
    throw new Stop('There is no agency yet: open the address and found it with the code that start prints.');
  await note(db, rows[0].id, 'was invited as an owner from the shell', email);
  return linkFor(
    db,
    rows[0].id,
    { kind: 'invitation', email, role: 'owner', grants: [], clients: 'all' },
    `${email} is invited as an owner.`,
  );
}

async function unlock(db: pg.Client, email: string): Promise<{ words: string; token: string }> {
  const known = await find(db, email);
  if (!known) throw new Stop(`Nobody has an account with the address ${email}.`);
  await db.query("delete from rate_limit where key like 'sign-in %'");
  await endFactor(db, known.id);
  await note(db, known.agency_id, 'was unlocked from the shell', email);
  return linkFor(
    db,
    known.agency_id,
    { kind: 'password', accountId: known.id },
    'Wrong passwords and the second factor are forgotten.',
  );
}

const note = (db: pg.Client, agencyId: number, what: string, who: string) =>
  auditAgency(db, { agencyId, accountId: null, now: Date.now(), address: null }, what, { who });

async function linkFor(db: pg.Client, agencyId: number, whom: For, words: string) {
  const { token, expiresAt } = await makeLink(db, agencyId, whom, null, Date.now());
  return { words: `${words} This link counts once, until ${expiresAt.toLocaleString('en-GB')}:`, token };
}
