import { isEndless, isWithinReach, pageAddress, shapeOf } from '@dart-loop/core/answers/site/addresses';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import type { Step, TaskKind, TaskRow } from '../platform/jobs/tasks';
import { newId } from '../platform/ids';
import type { Outside } from '../platform/outside';
import { TooHeavy, type Threads } from '../platform/threads/threads';
import { fetchPage, type Fetched } from './fetching';
import type { ReadWebPage } from './reading';
import { MOST_PAGES, rulesOf, type Site } from './siteRules';
import { sourcesChanged } from './sources';
import { writePage } from './writing';

/** Links on the way to a page. */
const MOST_DEPTH = 12;
/** Pages that differ by their numbers and parameters alone. */
const MOST_OF_A_SHAPE = 150;
/** Bytes of one reading. */
const MOST_BYTES = 200_000_000;
/** Between two requests: nobody's site is to feel us. */
const PAUSE_MS = 250;
const PAUSE_OF_STANDINS_MS = 10;
const PAGE_MS = 10_000;
/** So long a page that is gone still answers: whoever looks after the client may see it first. */
const KEPT_MS = 24 * 3_600_000;

export interface SiteSpec {
  sourceId: string;
}

interface Waiting {
  id: string;
  address: string;
  depth: number;
}

/**
 * Reads the pages of a source, politely: as robots.txt allows, one after the other, and no more than can be
 * good for anybody. What is left to read stands in the table of pages, so that another goes on where one
 * ended.
 */
export const siteTask = (
  clock: Clock,
  threads: Threads,
  outside: Outside,
  pauseMs = outside.standins === null ? PAUSE_MS : PAUSE_OF_STANDINS_MS,
): TaskKind<SiteSpec> => ({
  async *batches(task, db) {
    const { sourceId } = task.spec;
    const { rows } = await db.query<Site>(
      'select name, address, kind from source where client_id = $1 and id = $2',
      [task.client_id, sourceId],
    );
    const site = rows[0];
    if (!site) return;
    const rules = await rulesOf(outside, site);
    if (!rules.allows(site.address)) {
      const failure = `the site’s robots.txt does not let ${site.address} be read`;
      yield (connection) => closed(connection, task, sourceId, failure, clock.now());
      return;
    }
    yield async (connection) => {
      const found = [site.address, ...rules.sitemap];
      await noteLinks(connection, task, sourceId, site, found, 0, rules.allows, clock.now());
      return { done: 0 };
    };
    let bytes = 0;
    for (;;) {
      const [next] = await waiting(db, task, sourceId);
      if (!next || bytes > MOST_BYTES) break;
      const fetched: Fetched = rules.allows(next.address)
        ? await fetchPage(outside, next.address)
        : { kind: 'failed', reason: 'the site’s robots.txt does not let it be read' };
      const met: Met = fetched.kind === 'page' ? await readIn(threads, fetched) : fetched;
      if (fetched.kind === 'page') bytes += fetched.bytes.length;
      yield async (connection) => {
        const isChanged = await keep(connection, { task, sourceId, site, next, met, now: clock.now() });
        if (met.kind === 'page') {
          const known = met.page.links.flatMap((link) => pageAddress(link, met.address) ?? []);
          await noteLinks(connection, task, sourceId, site, known, next.depth + 1, rules.allows, clock.now());
        }
        const { rows: counts } = await connection.query<{ total: number }>(
          'select count(*)::int as total from source_page where client_id = $1 and source_id = $2',
          [task.client_id, sourceId],
        );
        return {
          done: 1,
          total: counts[0]!.total,
          counts: { [isChanged ? 'pages changed' : 'pages unchanged']: 1 },
        };
      };
      await new Promise((resolve) => setTimeout(resolve, Math.max(pauseMs, rules.pauseMs)));
    }
    yield (connection) => over(connection, task, sourceId, site, clock.now());
  },
});

/** What came of a page: what it says and where it ended, or why it is not there. */
type Met = { kind: 'page'; address: string; page: ReadWebPage } | Exclude<Fetched, { kind: 'page' }>;

/** What a page says, worked out in a thread; what is too heavy says nothing. */
async function readIn(
  threads: Threads,
  { address, type, bytes }: Extract<Fetched, { kind: 'page' }>,
): Promise<Met> {
  try {
    return { kind: 'page', address, page: await threads.run('readPage', { address, type, bytes }, PAGE_MS) };
  } catch (error) {
    if (!(error instanceof TooHeavy)) throw error;
    return { kind: 'page', address, page: { ok: false, reason: error.message, links: [] } };
  }
}

/** The next page that was not met in this reading. */
const waiting = async (db: Db, task: TaskRow<SiteSpec>, sourceId: string): Promise<Waiting[]> =>
  (
    await db.query<Waiting>(
      `
        select id, address, depth from source_page
        where client_id = $1 and source_id = $2 and run is distinct from $3 order by depth, id limit 1`,
      [task.client_id, sourceId, task.id],
    )
  ).rows;

/** Writes down what came of a page; whether what it says is another now. */
async function keep(
  db: Connection,
  {
    task,
    sourceId,
    site,
    next,
    met,
    now,
  }: { task: TaskRow<SiteSpec>; sourceId: string; site: Site; next: Waiting; met: Met; now: number },
): Promise<boolean> {
  const clientId = task.client_id;
  if (met.kind === 'page') {
    const { page } = met;
    if (!page.ok) return dropPage(db, task, next, page.reason, now);
    // A page goes by one address: where it ended, or where it says that it belongs.
    const canonical = page.canonical && pageAddress(page.canonical, met.address);
    const ended = canonical && isWithinReach(canonical, site.address, site.kind) ? canonical : met.address;
    const own = pageAddress(ended) ?? next.address;
    if (own !== next.address && next.address !== site.address) {
      const isIn = isWithinReach(own, site.address, site.kind);
      if (isIn) await addPages(db, task, sourceId, [own], next.depth, now);
      // Where two pages say that each is the other, the one that is read second stays.
      if (!isIn || !(await wasGivenAway(db, task, sourceId, own)))
        return dropPage(db, task, next, `it leads to ${own}`, now);
    }
    return writePage(db, clientId, sourceId, { ...page, address: next.address, run: task.id }, now);
  }
  const { rows } = await db.query<{ was_gone: boolean }>(
    `
      update source_page p set state = $3, failure = $4, run = $5,
        read_at = case when p.state = 'gone' and $3 = 'gone' then p.read_at else $6 end
      from source_page before
      where p.client_id = $1 and p.id = $2 and before.client_id = p.client_id and before.id = p.id
      returning p.state = 'gone' and before.state = 'gone' and before.read_at < $7 as was_gone`,
    [clientId, next.id, met.kind, met.reason, task.id, new Date(now), new Date(now - KEPT_MS)],
  );
  return rows[0]!.was_gone && forgetPassages(db, clientId, next);
}

/** Nothing is answered from a page any more; whether anything was. */
async function forgetPassages(db: Connection, clientId: number, { id }: Waiting): Promise<boolean> {
  const { rowCount } = await db.query('delete from passage where client_id = $1 and page_id = $2', [
    clientId,
    id,
  ]);
  return (rowCount ?? 0) > 0;
}

/** Whether a page was met in this reading, and is known by another address. */
async function wasGivenAway(
  db: Connection,
  task: TaskRow<SiteSpec>,
  sourceId: string,
  address: string,
): Promise<boolean> {
  const { rowCount } = await db.query(
    `
      select from source_page
      where client_id = $1 and source_id = $2 and address = $3 and run = $4 and state = 'nothing in it'`,
    [task.client_id, sourceId, address, task.id],
  );
  return (rowCount ?? 0) > 0;
}

/** A page has nothing of its own, for this reason; whether it had something before. */
async function dropPage(
  db: Connection,
  task: TaskRow<SiteSpec>,
  page: Waiting,
  reason: string,
  now: number,
): Promise<boolean> {
  await db.query(
    `
      update source_page set state = 'nothing in it', failure = $3, run = $4, read_at = $5, words = 0
      where client_id = $1 and id = $2`,
    [task.client_id, page.id, reason, task.id, new Date(now)],
  );
  return forgetPassages(db, task.client_id, page);
}

/** Links that lead to more of the site wait to be read. */
async function noteLinks(
  db: Connection,
  task: TaskRow<SiteSpec>,
  sourceId: string,
  { address, kind }: Site,
  links: readonly string[],
  depth: number,
  allows: (address: string) => boolean,
  now: number,
): Promise<void> {
  if (depth > MOST_DEPTH) return;
  const wanted = [...new Set(links)].filter(
    (link) => isWithinReach(link, address, kind) && !isEndless(link) && allows(link),
  );
  if (wanted.length > 0) await addPages(db, task, sourceId, wanted, depth, now);
}

async function addPages(
  db: Connection,
  task: TaskRow<SiteSpec>,
  sourceId: string,
  addresses: readonly string[],
  depth: number,
  now: number,
): Promise<void> {
  const { rows: known } = await db.query<{ address: string }>(
    'select address from source_page where client_id = $1 and source_id = $2',
    [task.client_id, sourceId],
  );
  const there = new Set(known.map(({ address }) => address));
  const shapes = new Map<string, number>();
  for (const address of there) shapes.set(shapeOf(address), (shapes.get(shapeOf(address)) ?? 0) + 1);
  const added: { id: string; address: string }[] = [];
  for (const address of addresses) {
    const shape = shapeOf(address);
    const count = shapes.get(shape) ?? 0;
    if (there.has(address) || count >= MOST_OF_A_SHAPE || there.size >= MOST_PAGES) continue;
    there.add(address);
    shapes.set(shape, count + 1);
    added.push({ id: newId(now), address });
  }
  await db.query(
    `
      insert into source_page (client_id, id, source_id, address, title, state, depth)
      select $1, r.id, $2, r.address, r.address, 'waiting', $3
      from jsonb_to_recordset($4) as r (id uuid, address text) on conflict do nothing`,
    [task.client_id, sourceId, depth, toJson(added)],
  );
}

/** The reading is over: what was found is answered from. */
async function over(db: Connection, task: TaskRow<SiteSpec>, sourceId: string, site: Site, now: number) {
  const { rows } = await db.query<{ read: number; failure: string | null }>(
    `
      select count(*) filter (where state = 'read')::int as read,
        max(failure) filter (where address = $3) as failure
      from source_page where client_id = $1 and source_id = $2`,
    [task.client_id, sourceId, site.address],
  );
  const { read, failure } = rows[0]!;
  await sourcesChanged(db, task.client_id, `${site.name} was read`);
  return closed(db, task, sourceId, read === 0 ? (failure ?? 'there is no text in it') : null, now);
}

/** Notes that a source was read, and why there is nothing of it where there is not. */
async function closed(
  db: Connection,
  task: TaskRow<SiteSpec>,
  sourceId: string,
  failure: string | null,
  now: number,
): Promise<Step> {
  await db.query('update source set read_at = $3, failure = $4 where client_id = $1 and id = $2', [
    task.client_id,
    sourceId,
    new Date(now),
    failure,
  ]);
  return { done: 0 };
}
