import { Problem } from '../platform/problem';

/** Where a list goes on: a time and an id, as one opaque word. Lists are paged by key, never by offset. */
export function pageKey(at: Date, id: string): string {
  return `${at.getTime()}_${id}`;
}

/** Reads a page key; throws a 400 for anything else. */
export function readPageKey(key: string): { at: Date; id: string } {
  const found = /^(\d{1,15})_([0-9a-f-]{36})$/.exec(key);
  if (!found)
    throw new Problem(400, 'That cannot be used', 'The place to go on from is not one that this list gave.');
  return { at: new Date(Number(found[1])), id: found[2]! };
}

/** A person's name as shown: their name, else their handle, else their number or id. */
export const WHO = `coalesce(nullif(concat_ws(' ', p.first_name, p.last_name), ''), i.handle, c.address)`;
