import { z } from 'zod';
import type { ClientFacts } from '../../people/client';
import { ColumnType, type Row, type SyncedPerson, type TheirColumn } from '../mapping';

/** A call to another system, without its secrets: the edge adds those. */
export interface Call {
  method: 'GET' | 'POST' | 'PUT' | 'PATCH';
  address: string;
  headers?: Record<string, string>;
  /** JSON; null with GET. */
  body: unknown;
}
/** What came back: a status, and the body where it was JSON. */
export interface Reply {
  status: number;
  body: unknown;
}

/** What is delivered about one person. */
export interface Parcel {
  /** The same with every try, so that the other side can drop a repeat. */
  id: string;
  /** When what it tells of happened, in ms. */
  at: number;
  person: SyncedPerson;
  client: ClientFacts;
  row: Row;
  /** The id that the other side has given this person, once it has. */
  theirId: string | null;
}

/**
 * What comes next in a delivery: a call, or its end. `refused`: it will not do, however often it is tried.
 * `unclear`: the answer makes no sense, as when something stands in between; it may pass.
 */
export type Move =
  | { kind: 'call'; call: Call }
  | { kind: 'done'; theirId: string | null; words: string }
  | { kind: 'refused'; reason: string }
  | { kind: 'unclear'; reason: string };

/**
 * One kind of destination: what it needs to be set up, and how it is spoken to. Pure: replies come in, the
 * next call comes out.
 */
export interface DestinationKind<Settings = never> {
  kind: string;
  /** As it is offered: "A contact in a CRM". */
  words: string;
  settings: z.ZodType<Settings>;
  /** Whether a bearer token goes with its calls; without, they are signed. */
  needsToken: boolean;
  /**
   * The next move, from the replies so far, each to the call that was made for it. Replies of 401, 403, 408,
   * 409, 425, 429 and 5xx never get here, but for those that `takes` names.
   */
  next(settings: Settings, parcel: Parcel, replies: readonly Reply[]): Move;
  /** It goes out as a whole, of everybody it is for: `next` is asked of nobody. */
  isWhole?: true;
  /** Statuses beside 2xx that {@link next} makes something of. */
  takes: readonly number[];
  /** Reads the columns of the other side, where it can say. */
  columns?: { call(settings: Settings): Call; read(body: unknown): TheirColumn[] | null };
}

/** A place below an address. */
export const below = (address: string, name: string): string =>
  `${address.replace(/\/$/, '')}/${encodeURIComponent(name)}`;

/**
 * Columns as GET ADDRESS/columns may tell them: [{"name", "type", "required"}], alone or as "columns"; null
 * where the answer is none.
 */
export const columnsBelow: NonNullable<DestinationKind<{ address: string }>['columns']> = {
  call: ({ address }) => ({ method: 'GET', address: below(address, 'columns'), body: null }),
  read(body) {
    const read = Described.safeParse(
      Array.isArray(body) ? body : (body as { columns?: unknown } | null)?.columns,
    );
    return read.success ? read.data : null;
  },
};
const Described = z
  .array(
    z.object({
      name: z.string().min(1).max(100),
      type: ColumnType.catch('text'),
      required: z.boolean().catch(false),
    }),
  )
  .max(500);
