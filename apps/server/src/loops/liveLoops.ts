import { peopleWordsOf } from '../people/peopleWords';
import {
  fold,
  indexCues,
  type ClientFacts,
  type Condition,
  type CueIndex,
  type FieldTypes,
  type ListFacts,
  type Loop,
  type LoopVersion,
  type Template,
} from '@dart-loop/core';
import { calendarsOf, type Calendars } from '../bookings/calendars';
import type { Connection } from '../platform/db/pool';

/** What one client has published, with its facts, as the lane needs it. Immutable per revision. */
export interface Published {
  revision: number;
  facts: ClientFacts;
  fields: FieldTypes;
  cues: CueIndex;
  /** Live versions by their folded names. */
  named: ReadonlyMap<string, LoopVersion>;
  /** What may be sent on each line where its window is shut. */
  templates: ReadonlyMap<string, Template[]>;
  /** Saved segments, ids of all loops, and lists, by their folded names. */
  segments: Readonly<Record<string, Condition>>;
  loopIds: Readonly<Record<string, string>>;
  lists: Readonly<Record<string, ListFacts>>;
  calendars: Calendars;
}

/**
 * Published loops in memory. Versions never change, so they are kept by their number; cues are read again
 * when the client's revision moves.
 */
export class PublishedLoops {
  #clients = new Map<number, Published>();
  #versions = new Map<string, LoopVersion>();

  version(loopId: string, version: number): LoopVersion | null {
    return this.#versions.get(`${loopId}|${version}`) ?? null;
  }

  client(clientId: number): Published {
    const published = this.#clients.get(clientId);
    if (!published) throw new Error(`client ${clientId} was not loaded`);
    return published;
  }

  /** Loads every client whose revision is not the one in memory. */
  async loadClients(db: Connection, wanted: Map<number, number>): Promise<void> {
    const stale = [...wanted]
      .filter(([id, revision]) => this.#clients.get(id)?.revision !== revision)
      .map(([id]) => id);
    if (stale.length === 0) return;
    const clients = await db.query<{
      id: number;
      name: string;
      brief: Record<string, string>;
      country: string;
      currency: string | null;
      time_zone: string;
      languages: string[];
      opening_hours: ClientFacts['openingHours'];
      quiet_hours: ClientFacts['quiet'];
      files: Record<string, string>;
      cue_revision: number;
    }>(
      `
        select id, name, brief, country, currency, time_zone, languages, opening_hours, quiet_hours,
          cue_revision, files_of(id) as files
        from client where id = any($1)`,
      [stale],
    );
    const fields = await db.query<{ client_id: number; key: string; type: FieldTypes[string] }>(
      'select client_id, key, type from field where client_id = any($1)',
      [stale],
    );
    const live = await db.query<{
      client_id: number;
      loop_id: string;
      version: number;
      loop: Loop;
      published_at: Date;
    }>(
      `select v.client_id, v.loop_id, v.version, v.loop, v.published_at from loop l
       join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version
       where l.client_id = any($1) and l.state = 'live' and l.archived_at is null order by l.position, l.id`,
      [stale],
    );
    const templates = await db.query<{ client_id: number; key: string; templates: Template[] }>(
      "select client_id, key, templates from line where client_id = any($1) and templates <> '[]'",
      [stale],
    );
    const named = await peopleWordsOf(db, stale);
    const calendars = await calendarsOf(db, stale);
    const versions = live.rows.map((row) => ({
      clientId: row.client_id,
      version: this.#remember(row.loop_id, row.version, row.loop, row.published_at),
    }));
    for (const client of clients.rows) {
      const own = versions.filter((each) => each.clientId === client.id).map((each) => each.version);
      this.#clients.set(client.id, {
        revision: client.cue_revision,
        facts: {
          name: client.name,
          brief: client.brief,
          files: client.files,
          country: client.country,
          ...(client.currency && { currency: client.currency }),
          timeZone: client.time_zone,
          languages: client.languages,
          openingHours: client.opening_hours,
          quiet: client.quiet_hours,
        },
        fields: Object.fromEntries(
          fields.rows.filter((row) => row.client_id === client.id).map((row) => [row.key, row.type]),
        ),
        cues: indexCues(own),
        named: new Map(own.map((version) => [fold(version.loop.name), version])),
        templates: new Map(
          templates.rows.filter((row) => row.client_id === client.id).map((row) => [row.key, row.templates]),
        ),
        ...named(client.id),
        calendars: calendars(client.id),
      });
    }
  }

  /** Loads versions that runs still stand on. */
  async loadVersions(
    db: Connection,
    wanted: { clientId: number; loopId: string; version: number }[],
  ): Promise<void> {
    const missing = wanted.filter((each) => !this.#versions.has(`${each.loopId}|${each.version}`));
    if (missing.length === 0) return;
    const { rows } = await db.query<{ loop_id: string; version: number; loop: Loop; published_at: Date }>(
      `
       select v.loop_id, v.version, v.loop, v.published_at from loop_version v
       join (select distinct *
         from unnest($1::int[], $2::uuid[], $3::int[]) as w (client_id, loop_id, version)) w using
         (client_id, loop_id, version)`,
      [
        missing.map((each) => each.clientId),
        missing.map((each) => each.loopId),
        missing.map((each) => each.version),
      ],
    );
    for (const row of rows) this.#remember(row.loop_id, row.version, row.loop, row.published_at);
  }

  #remember(loopId: string, version: number, loop: Loop, publishedAt: Date): LoopVersion {
    const key = `${loopId}|${version}`;
    const known = this.#versions.get(key);
    if (known) return known;
    if (this.#versions.size > 20_000) this.#versions.clear();
    const made = { loopId, version, loop, publishedAt: publishedAt.getTime() };
    this.#versions.set(key, made);
    return made;
  }
}
