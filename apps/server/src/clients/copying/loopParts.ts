import { CHANNELS, type Loop } from '@dart-loop/core';
import { linesElsewhere, loopElsewhere, ownIn } from '@dart-loop/core/loops/edit/elsewhere';
import { MENU_KINDS, type Menus } from '@dart-loop/core/channels/menus';
import { addLoop } from '../../loops/routes';
import { sorted, type Part } from './part';

export const loops: Part = {
  part: 'loops',
  async copy({ db, from, to, accountId, now, leave }) {
    const { rows: all } = await db.query<{ name: string; draft: Loop }>(
      'select name, draft from loop where client_id = $1 and archived_at is null order by position, id',
      [from.id],
    );
    const { rows: there } = await db.query<{ name: string }>(
      'select lower(name) as name from loop where client_id = $1 and archived_at is null',
      [to.id],
    );
    const taken = new Set(there.map(({ name }) => name));
    const added = all.filter(({ name }) => !taken.has(name.toLowerCase()));
    const elsewhere = linesElsewhere(from.lines, to.lines);
    for (const { draft } of added) {
      const id = await addLoop(db, to.id, accountId, loopElsewhere(draft, elsewhere), now);
      const own = ownIn(draft);
      leave({
        kind: 'loop',
        about: draft.name,
        words: `Look through “${draft.name}”${own.length > 0 ? `, choose ${own.join(' and ')}` : ''}, and publish it.`,
        place: `loops/${id}`,
      });
      for (const key of new Set([...draft.lines, ...draft.cues.flatMap(({ lines }) => lines ?? [])])) {
        const channel = from.lines.find((line) => line.key === key)?.channel;
        if (channel && elsewhere(key).length === 0) leave(noLineOf(channel));
      }
    }
    const briefs = await db.query<{ key: string }>(
      `
        select distinct m[1] as key from loop,
          regexp_matches(draft::text, '\\{\\{-?\\s*brief\\.([a-z0-9_]+)', 'g') as m
        where client_id = $1 and archived_at is null and name = any ($2)
          and not exists (select from client c where c.id = $1 and c.brief ? m[1])
        order by 1`,
      [to.id, added.map(({ name }) => name)],
    );
    for (const { key } of briefs.rows)
      leave({
        kind: 'brief',
        about: key,
        words: `Fill in “${key.replaceAll('_', ' ')}” in the brief: loops that were copied say it.`,
        place: 'brief',
      });
    return sorted(all, added);
  },
};

export const menus: Part = {
  part: 'menus',
  async copy({ db, from, to, leave }) {
    const { rows } = await db.query<{ name: string; channel: string; menus: Menus }>(
      `
        select name, channel, menus from line
        where client_id = $1 and secrets is not null and menus <> '{}' order by id`,
      [from.id],
    );
    const all = rows.filter(
      ({ menus }) => menus.greeting || MENU_KINDS.some((kind) => (menus[kind] ?? []).length > 0),
    );
    const added: typeof all = [];
    for (const line of all) {
      const { rows: taken } = await db.query<{ id: number; name: string }>(
        `
          update line set menus = $3
          where client_id = $1 and channel = $2 and secrets is not null and menus = '{}'
          returning id, name`,
        [to.id, line.channel, line.menus],
      );
      for (const { name } of taken)
        leave({
          kind: 'by hand',
          about: `menus ${name}`,
          words: `Put the menus on the line ${name}: they are written here, and not on the channel yet.`,
          place: 'lines',
        });
      if (taken.length > 0) added.push(line);
      else if (!to.lines.some(({ channel }) => channel === line.channel)) leave(noLineOf(line.channel));
    }
    return sorted(all, added);
  },
};

const noLineOf = (channel: string) => ({
  kind: 'line' as const,
  about: channel,
  words: `Connect a ${CHANNELS[channel as keyof typeof CHANNELS].name} line: what was copied speaks there.`,
  place: 'lines',
});
