import type { Clock } from '../platform/clock';
import type { Db } from '../platform/db/pool';
import type { Adapter, OpenLine, Received } from '../channels/adapter';

const MOST_REMEMBERED = 50_000;
/** The webhook's answer does not wait longer than this for the platform. */
const PATIENCE_MS = 3_000;
/** Asked for at once, for one request. */
const AT_ONCE = 16;

/**
 * What events leave out and the platform is asked for, once for each: when a post that is commented on was
 * made, and the name of somebody who writes for the first time. A platform that does not answer in time holds
 * nothing up for long.
 */
export class Lookups {
  #known = new Map<string, Promise<number | null>>();
  #met = new Set<string>();
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
  ) {}

  /**
   * Fills in what is left out, where the platform says it: of all events at once, so that a platform that is
   * slow holds a request up once and not for each.
   */
  async complete(received: Received[], line: OpenLine, adapter: Adapter): Promise<void> {
    const left = [...received];
    await Promise.all(
      Array.from({ length: AT_ONCE }, async () => {
        for (let each = left.shift(); each; each = left.shift()) await this.#completeOne(each, line, adapter);
      }),
    );
  }

  async #completeOne(received: Received, line: OpenLine, adapter: Adapter): Promise<void> {
    const { incoming, profile, address } = received;
    if (incoming.kind === 'comment' && incoming.verb !== 'removed')
      incoming.postedAt = await this.#postedAt(incoming.postId, line, adapter);
    if (
      adapter.profile &&
      incoming.kind !== 'comment' &&
      profile.firstName === null &&
      profile.handle === null &&
      (await this.#isNew(address, line))
    )
      received.profile = (await inTime(adapter.profile(address, line)).catch(() => null)) ?? profile;
  }

  async #isNew(address: string, line: OpenLine): Promise<boolean> {
    const key = `${line.id}|${address}`;
    if (this.#met.has(key)) return false;
    if (this.#met.size > MOST_REMEMBERED) this.#met.clear();
    this.#met.add(key);
    const { rowCount } = await this.db.query(
      `
        select from conversation
        where client_id = $1 and line_id = $2 and address = $3 and person_id is not null`,
      [line.clientId, line.id, address],
    );
    return rowCount === 0;
  }

  #postedAt(postId: string, line: OpenLine, adapter: Adapter): Promise<number | null> {
    const key = `${line.id}|${postId}`;
    let found = this.#known.get(key);
    if (!found) {
      if (this.#known.size > MOST_REMEMBERED) this.#known.clear();
      found = this.#look(postId, line, adapter).catch(() => null);
      this.#known.set(key, found);
      // What is not known now may be asked again later.
      void found.then((at) => at === null && this.#known.delete(key));
    }
    return found;
  }

  async #look(postId: string, line: OpenLine, adapter: Adapter): Promise<number | null> {
    const { rows } = await this.db.query<{ posted_at: Date | null }>(
      'select posted_at from post where client_id = $1 and line_id = $2 and id = $3',
      [line.clientId, line.id, postId],
    );
    if (rows[0]) return rows[0].posted_at?.getTime() ?? null;
    const post = await inTime(adapter.post?.(postId, line) ?? Promise.resolve(null));
    const at = post ? Date.parse(post.created_time) : NaN;
    if (!post || Number.isNaN(at)) return null;
    await this.db.query(
      `
        insert into post (client_id, line_id, id, text, posted_at, seen_at)
        values ($1, $2, $3, $4, $5, $6) on conflict do nothing`,
      [
        line.clientId,
        line.id,
        postId,
        (post.message ?? '').slice(0, 2_000),
        new Date(at),
        new Date(this.clock.now()),
      ],
    );
    return at;
  }
}

/** Null where it takes too long. */
function inTime<T>(work: Promise<T>): Promise<T | null> {
  let impatient: NodeJS.Timeout | undefined;
  const patience = new Promise<null>((resolve) => (impatient = setTimeout(() => resolve(null), PATIENCE_MS)));
  return Promise.race([work, patience]).finally(() => clearTimeout(impatient));
}
