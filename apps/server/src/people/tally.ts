import type { Clock } from '../platform/clock';
import type { Connection, Db } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';
import { TERM } from './terms';
import type { TermQuery } from './termQuery';

/** From so many people on a client is counted by its tally; below, the index of terms is quick enough. */
const TALLIED_FROM = 20_000;
/** People who have changed are written into the tally when there are so many, or after so long. */
const FOLD_FROM = 2_000;
const FOLD_AFTER_MS = 600_000;
/** Written at once: as many as a block has seats. */
const FOLD_MOST = 8_192;
/** With more than this still to be written, the index is asked instead. */
const OPEN_MOST = 5_000;

const BLOCK_BYTES = 1_024;
const BLOCK_WORDS = BLOCK_BYTES / 4;

/**
 * How many of a client's people fit a question of their terms: those whom the tally knows by their bits,
 * those who have changed since by their rows (`where`, a condition over `person_terms t` with its parameters
 * numbered from 2). Null where the client has no tally, or one that is far behind.
 */
export async function countByTally(
  db: Connection,
  clientId: number,
  query: TermQuery,
  where: string,
  values: unknown[],
): Promise<number | null> {
  const { rows: ready } = await db.query<{ open: number }>(
    `
      select (select count(*)::int
        from (select from tally_open where client_id = $1 limit ${OPEN_MOST + 1}) o) as open from tallied
      where client_id = $1 and state = 'counting'`,
    [clientId],
  );
  if (!ready[0] || ready[0].open > OPEN_MOST) return null;
  const leaves = leavesOf(query);
  const n = values.length + 2;
  // One statement: the bits, what is stale of them and who has changed are of the same moment.
  const { rows } = await db.query<{
    leaf: number | null;
    seat: number | null;
    people: Buffer | null;
    open: number | null;
  }>(
    `
     select l.n::int as leaf, null::int as seat,
       string_agg(int4send(t.block) || int4send(length(t.people)) || t.people, ''::bytea) as people,
       null::int as open
       from unnest($${n}::text[], $${n + 1}::text[]) with ordinality l (low, high, n)
       join tally t on t.client_id = $1 and t.term >= l.low collate "C" and t.term < l.high collate "C"
       group by 1
     union all select null, seat, null, null from tally_stale where client_id = $1
     union all select null, null, null, (select count(*)::int from tally_open o
       join person_terms t on t.client_id = o.client_id and t.person_id = o.person_id
     where o.client_id = $1 and t.client_id = $1 and ${where})`,
    [
      clientId,
      ...values,
      leaves.map(({ term }) => term),
      leaves.map(({ term, begins }) => `${term}${begins ? AFTER_ALL : '\u0001'}`),
    ],
  );
  const bits = new TallyBits();
  let open = 0;
  for (const row of rows) {
    if (row.open !== null) open = row.open;
    else if (row.people === null) bits.leaveOut(row.seat!);
    else bits.put(row.leaf! - 1, row.people);
  }
  return open + bits.count(query, leaves);
}

/** Nothing that a text begins with comes after it. */
const AFTER_ALL = String.fromCodePoint(0x10ffff);
type Leaf = { term: string; begins?: true };
const EVERYBODY: Leaf = { term: TERM.everybody };
const keyOf = ({ term, begins }: Leaf) => (begins ? `*${term}` : `=${term}`);

/** The terms that a question asks for, each once; everybody is the first. */
function leavesOf(query: TermQuery): Leaf[] {
  const leaves = new Map<string, Leaf>([[keyOf(EVERYBODY), EVERYBODY]]);
  const walk = (part: TermQuery): void => {
    if ('not' in part) walk(part.not);
    else if ('all' in part) part.all.forEach(walk);
    else if ('any' in part) part.any.forEach(walk);
    else leaves.set(keyOf(part), part);
  };
  walk(query);
  return [...leaves.values()];
}

/** Who has which of the terms that were asked for, a bit for each seat, in blocks of 8,192 of them. */
class TallyBits {
  readonly #blocks = new Map<number, Map<number, Uint32Array>>();
  readonly #left: number[] = [];

  /**
   * Adds what the tally says of a term: for each block its number, a length in bytes, and a bitmap or the
   * numbers of those who have the term.
   */
  put(leaf: number, said: Buffer): void {
    for (let at = 0; at < said.length;) {
      const length = said.readUInt32BE(at + 4);
      this.#put(leaf, said.readUInt32BE(at), said.subarray(at + 8, at + 8 + length));
      at += 8 + length;
    }
  }

  #put(leaf: number, block: number, people: Buffer): void {
    let there = this.#blocks.get(block);
    if (!there) this.#blocks.set(block, (there = new Map()));
    let bits = there.get(leaf);
    if (!bits) there.set(leaf, (bits = new Uint32Array(BLOCK_WORDS)));
    if (people.length === BLOCK_BYTES) {
      const words = new DataView(people.buffer, people.byteOffset, BLOCK_BYTES);
      for (let at = 0; at < BLOCK_WORDS; at++) bits[at]! |= words.getUint32(4 * at, true);
    } else
      for (let at = 0; at < people.length; at += 2) {
        const seat = (people[at]! << 8) | people[at + 1]!;
        bits[seat >> 5]! |= 1 << (seat & 31);
      }
  }

  /** A seat that counts for nothing. */
  leaveOut(seat: number): void {
    this.#left.push(seat);
  }

  count(query: TermQuery, leaves: readonly Leaf[]): number {
    const numbers = new Map(leaves.map((leaf, index) => [keyOf(leaf), index]));
    for (const seat of this.#left) {
      const everybody = this.#blocks.get(seat >> 13)?.get(0);
      if (everybody) everybody[(seat & 8_191) >> 5]! &= ~(1 << (seat & 31));
    }
    let count = 0;
    for (const block of this.#blocks.values()) {
      const everybody = block.get(0);
      if (!everybody) continue;
      const bits = bitsOf(query, block, numbers, everybody);
      if (bits) for (let at = 0; at < BLOCK_WORDS; at++) count += ones(bits[at]! & everybody[at]!);
    }
    return count;
  }
}

type Block = ReadonlyMap<number, Uint32Array>;

/**
 * Who of a block fits a question; null is nobody. What it gives is not to be changed: it may be what the
 * tally said.
 */
function bitsOf(
  query: TermQuery,
  block: Block,
  numbers: ReadonlyMap<string, number>,
  everybody: Uint32Array,
): Uint32Array | null {
  const of = (part: TermQuery) => bitsOf(part, block, numbers, everybody);
  if ('any' in query) {
    const some = new Uint32Array(BLOCK_WORDS);
    for (const part of query.any) {
      const bits = of(part);
      if (bits) for (let at = 0; at < BLOCK_WORDS; at++) some[at]! |= bits[at]!;
    }
    return some;
  }
  if ('all' in query || 'not' in query) {
    const left = everybody.slice();
    for (const part of 'all' in query ? query.all : [query]) {
      const isNot = 'not' in part;
      const bits = of(isNot ? part.not : part);
      if (!bits && !isNot) return null;
      if (bits && isNot) for (let at = 0; at < BLOCK_WORDS; at++) left[at]! &= ~bits[at]!;
      else if (bits) for (let at = 0; at < BLOCK_WORDS; at++) left[at]! &= bits[at]!;
    }
    return left;
  }
  return block.get(numbers.get(keyOf(query))!) ?? null;
}

/** How many bits of a word are set. */
function ones(word: number): number {
  let left = word - ((word >>> 1) & 0x5555_5555);
  left = (left & 0x3333_3333) + ((left >>> 2) & 0x3333_3333);
  return (((left + (left >>> 4)) & 0x0f0f_0f0f) * 0x0101_0101) >>> 24;
}

/** Begins a tally for clients that have grown so large that one pays. */
export async function beginTallies(db: Db): Promise<void> {
  await db.query(
    `
     insert into tallied (client_id) select c.id from client c
     where not exists (select from tallied t where t.client_id = c.id) and exists (select from person_terms t
       where t.client_id = c.id offset ${TALLIED_FROM - 1} limit 1)
     on conflict do nothing`,
  );
}

/**
 * Writes those who have changed into the tallies, some thousands at a time. Returns whether there is more to
 * be written at once.
 */
export async function foldTallies(db: Db, clock: Pick<Clock, 'now'>, resting: Resting): Promise<boolean> {
  // Whoever was changed by what was under way when the tally was begun is marked with everybody else.
  await db.query(
    `
     with begun as (update tallied set state = 'counting'
       where state = 'marking' and tx < pg_snapshot_xmin(pg_current_snapshot()) returning client_id)
     insert into tally_open (client_id, person_id) select t.client_id, t.person_id from begun
     join person_terms t using (client_id) on conflict do nothing`,
  );
  const now = clock.now();
  const { rows } = await db.query<{
    client_id: number;
    folded_at: Date | null;
    open: number;
    stale: boolean;
  }>(
    `
     select client_id, folded_at, (select count(*)::int
       from (select from tally_open o where o.client_id = t.client_id limit ${FOLD_FROM}) o) as open,
       exists (select from tally_stale s where s.client_id = t.client_id) as stale
     from tallied t where state = 'counting'`,
  );
  let more = false;
  for (const { client_id, folded_at, open, stale } of rows) {
    const isDue =
      open === FOLD_FROM || ((open > 0 || stale) && now - (folded_at?.getTime() ?? 0) >= FOLD_AFTER_MS);
    if (!isDue) continue;
    const folded = await resting.try('tally', client_id, () =>
      db.query<{ count: number }>('select fold_tally($1, $2, $3) as count', [
        client_id,
        FOLD_MOST,
        new Date(now),
      ]),
    );
    more ||= (folded?.rows[0]?.count ?? 0) >= FOLD_MOST;
  }
  return more;
}
