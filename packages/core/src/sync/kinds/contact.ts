import { z } from 'zod';
import { OutsideAddress } from '../../engine/steps/outsideAddress';
import { valueAt } from '../path';
import { below, columnsBelow, type DestinationKind, type Move, type Parcel, type Reply } from './kind';

const Path = z
  .string()
  .regex(/^([\w-]+(\.[\w-]+)*)?$/, 'a path is names with dots between, such as "data.id"')
  .max(100);

export const ContactSettings = z
  .object({
    /** Where contacts are: GET ADDRESS?COLUMN=VALUE finds, POST makes, PATCH ADDRESS/ID changes. */
    address: OutsideAddress,
    /** The column that a contact is found by. */
    findBy: z.string().trim().min(1, 'say by which column a contact is found').max(100),
    /** Where the found ones stand in the answer; empty: the answer is the list. */
    listAt: Path.default(''),
    /** Where the id stands in a contact. */
    idAt: Path.min(1).default('id'),
  })
  .strict();
export type ContactSettings = z.infer<typeof ContactSettings>;

/**
 * A contact in a CRM over HTTP: changed by the id it has given; else found by a column, and changed; else
 * made. An id that is gone over there (404) is found anew; one that somebody else has made meanwhile (409) is
 * found, and changed.
 */
export const contact: DestinationKind<ContactSettings> = {
  kind: 'contact',
  words: 'A contact in a CRM',
  settings: ContactSettings,
  needsToken: true,
  takes: [404, 409],
  next(settings, parcel, replies) {
    let move: Asked =
      parcel.theirId === null ? find(settings, parcel) : change(settings, parcel, parcel.theirId);
    for (const reply of replies) {
      const after = move.then?.(reply);
      if (!after) return { kind: 'unclear', reason: 'it gave more answers than it was asked for' };
      move = after;
    }
    return move.move;
  },
  columns: columnsBelow,
};

/** A move, and what follows from the reply to it. */
interface Asked {
  move: Move;
  then?(reply: Reply): Asked;
}
const end = (move: Move): Asked => ({ move });
const fine = ({ status }: Reply) => status >= 200 && status < 300;

function find(settings: ContactSettings, parcel: Parcel, again = false): Asked {
  const { address, findBy, listAt, idAt } = settings;
  const key = parcel.row.cells[findBy];
  if (key === undefined || Array.isArray(key))
    return end({ kind: 'refused', reason: `nothing is known for “${findBy}”, by which a contact is found` });
  const url = new URL(address);
  url.searchParams.set(findBy, String(key));
  return {
    move: { kind: 'call', call: { method: 'GET', address: url.href, body: null } },
    then(reply) {
      if (reply.status === 404) return make(settings, parcel, again);
      const list = fine(reply) ? (listAt === '' ? reply.body : valueAt(reply.body, listAt)) : undefined;
      if (!Array.isArray(list))
        return end({ kind: 'unclear', reason: 'its answer holds no list of contacts' });
      if (list.length === 0) return make(settings, parcel, again);
      const id = idIn(list[0], idAt);
      return id === null
        ? end({ kind: 'unclear', reason: `the contact it found has no “${idAt}”` })
        : change(settings, parcel, id, true);
    },
  };
}

function make(settings: ContactSettings, parcel: Parcel, again: boolean): Asked {
  return {
    move: {
      kind: 'call',
      call: {
        method: 'POST',
        address: settings.address,
        headers: { 'idempotency-key': parcel.id },
        body: parcel.row.cells,
      },
    },
    then(reply) {
      // Somebody else has made it since it was looked for.
      if (reply.status === 409)
        return again
          ? end({ kind: 'refused', reason: 'it says the contact exists, and does not find it' })
          : find(settings, parcel, true);
      if (!fine(reply)) return end({ kind: 'refused', reason: `it was answered ${reply.status}` });
      const id = idIn(reply.body, settings.idAt);
      return end(
        id === null
          ? { kind: 'unclear', reason: `the contact it made has no “${settings.idAt}”` }
          : { kind: 'done', theirId: id, words: `made contact ${id}` },
      );
    },
  };
}

function change(settings: ContactSettings, parcel: Parcel, id: string, justFound = false): Asked {
  const address = below(settings.address, id);
  return {
    move: {
      kind: 'call',
      call: { method: 'PATCH', address, headers: { 'idempotency-key': parcel.id }, body: parcel.row.cells },
    },
    then(reply) {
      if (reply.status === 404 && !justFound) return find(settings, parcel);
      if (reply.status === 409)
        return end({ kind: 'unclear', reason: 'it says that something else is changing the contact' });
      if (!fine(reply)) return end({ kind: 'refused', reason: `it was answered ${reply.status}` });
      return end({ kind: 'done', theirId: id, words: `changed contact ${id}` });
    },
  };
}

function idIn(contact: unknown, path: string): string | null {
  const id = valueAt(contact, path);
  return typeof id === 'string' && id !== '' ? id : typeof id === 'number' ? String(id) : null;
}
