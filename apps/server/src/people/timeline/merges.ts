import type { ChangedBy } from '../../conversations/changes';
import { byWords } from '../byWords';
import { entriesOf, type Source } from './source';

/** Others who became one with them, and who were parted again. */
export const merges: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
  const merges = await db.query<{ at: Date; parted_at: Date | null; by: ChangedBy; name: string | null }>(
    `
      select at, parted_at, by,
        nullif(concat_ws(' ', before #>> '{gone,first_name}', before #>> '{gone,last_name}'), '') as name
      from merge where client_id = $1 and (kept = any ($2::uuid[]) or gone = any ($2::uuid[]))`,
    key,
  );
  for (const { at, parted_at, by, name } of merges.rows) {
    add(at, 'merge', `${name ?? 'somebody'} became one with this person`, byWords(by));
    if (parted_at) add(parted_at, 'merge', `${name ?? 'somebody'} was parted from this person`, null);
  }
  return entries;
};
