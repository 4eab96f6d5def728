import type { ChannelKind } from '@dart-loop/core';
import type { Answered } from '@dart-loop/core/answers/answering';
import { SheetRow, type SheetResult } from '@dart-loop/core/answers/sheet';
import type { FromSources } from '@dart-loop/core/engine/steps/fromSources';
import type { Clock } from '../platform/clock';
import { withClients, type Db } from '../platform/db/pool';
import type { Threads } from '../platform/threads/threads';
import type { AskedOfSources, Encoded, ToSay } from './held';
import { meaningsKept, READ_AT_ONCE } from './meanings';
import { passagesOfClient, standing } from './sources';

/** How long sources may take to be read into mind, and a whole sheet to be asked. */
const LONG_MS = 30_000;
/** Somebody may change them between reading and asking, or others take their place. */
const MOST_TRIES = 5;

export interface Question {
  message: string;
  /** What the same person asked last. */
  before?: string | null;
  /** How long an answer may be; null: as long as one may be anywhere. */
  channel?: ChannelKind | null;
}

/**
 * Answers questions from a client's sources, in a thread that has them in mind; what it does not know, or
 * knows of before they changed, it is told first.
 */
export class Answers {
  constructor(
    private readonly database: Db,
    private readonly threads: Threads,
    private readonly clock: Clock,
  ) {}

  /** What becomes of each question in a message. */
  ask(clientId: number, { message, before = null, channel = null }: Question): Promise<Answered[]> {
    return this.#told(clientId, { channel, before }, (asked) =>
      this.threads.answer('askSources', { ...asked, message }),
    );
  }

  /** The same as an `answer` step is given it. */
  async toSay(clientId: number, question: Question): Promise<FromSources> {
    return (await this.toSayWithNear(clientId, question)).said;
  }

  /** The same, with the passages that come near to what is not answered. */
  toSayWithNear(clientId: number, { message, before = null, channel = null }: Question): Promise<ToSay> {
    return this.#told(clientId, { channel, before }, (asked) =>
      this.threads.answer('askToSay', { ...asked, message }),
    );
  }

  /** Which of some questions are answered outright. */
  async answered(clientId: number, questions: readonly string[]): Promise<string[]> {
    const rows = questions.map((question) => SheetRow.parse({ question }));
    const { results } = await this.sheet(clientId, rows);
    return results.flatMap(({ answered, row }) => (answered.zone === 'answer' ? [row.question] : []));
  }

  /** How each question of a sheet comes out, and the revision of the sources by which. */
  async sheet(clientId: number, rows: SheetRow[]): Promise<{ revision: number; results: SheetResult[] }> {
    let revision = 0;
    const results = await this.#told(clientId, { channel: null, before: null }, (asked) => {
      revision = asked.revision;
      return this.threads.answer('askSheet', { ...asked, rows }, LONG_MS);
    });
    return { revision, results };
  }

  /**
   * Puts a client's sources into the thread's mind, with what is known of their meaning; the revision that
   * they stand at.
   */
  async hold(clientId: number): Promise<number> {
    const read = await withClients(this.database, [clientId], async (db) => {
      const { client, ...stands } = await standing(db, clientId);
      return { clientId, ...stands, passages: await passagesOfClient(db, clientId, client) };
    });
    const { revision } = read;
    const lacking = await this.threads.answer('holdSources', read, LONG_MS);
    for (let at = 0; at < lacking.length; at += READ_AT_ONCE) {
      const known = await withClients(this.database, [clientId], (db) =>
        meaningsKept(db, clientId, lacking.slice(at, at + READ_AT_ONCE)),
      );
      if (known.length === 0) continue;
      const learnt = { clientId, revision, from: this.threads.file, known };
      await this.threads.answer('learnMeanings', learnt, LONG_MS);
    }
    return revision;
  }

  /**
   * Works out what one more of the passages in mind means; with the digests of all where none is left. Null
   * where they are in mind no longer as they stood at `revision`. The longest takes some seconds.
   */
  encodeNext(clientId: number, revision: number): Promise<Encoded | null> {
    return this.threads.answer('encodeHeld', { clientId, revision, from: this.threads.file }, LONG_MS);
  }

  async #told<T>(
    clientId: number,
    how: Pick<AskedOfSources, 'channel' | 'before'>,
    ask: (asked: AskedOfSources) => Promise<T | null>,
  ): Promise<T> {
    const now = this.clock.now();
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const stands = await withClients(this.database, [clientId], (db) => standing(db, clientId));
      const answer = await ask({ clientId, now, ...stands, ...how });
      if (answer !== null) return answer;
      await this.hold(clientId);
    }
    throw new Error('the sources change faster than they can be read');
  }
}
