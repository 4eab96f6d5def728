import { createInterface } from 'node:readline';
import { DateTime } from 'luxon';
import { CHANNELS, problemsOf, stranger, type ChannelKind } from '@dart-loop/core';
import { Performance } from '@dart-loop/core/engine/rehearsal/performance';
import { openRehearsal, type RehearsalEntry } from '@dart-loop/core/engine/rehearsal/rehearsal';
import { readScriptLine } from '@dart-loop/core/engine/rehearsal/script';
import { holidaysOf } from '@dart-loop/core/time/holidays';
import { surroundingsOf } from '@dart-loop/core/loops/file/clientFile';
import { Unusable } from '../machine';
import { foundIn, foundWords, problemWords, readArguments, readLoops, soundLoops } from './loopFiles';
import { SETTING, readSetting } from './setting';

export const USAGE = `./dartloop play FILE… [--client client.yaml] [--line KEY | --on CHANNEL] [--person person.yaml] [--at 2026-11-25T10:00] [--sources FOLDER] [--json] < conversation.txt

  FILE…      loop files, each with one loop or several parted by lines of ---, or folders of them; all are live
${SETTING}
  --at       when it begins; else ten in the morning of today, by the client's clock
  --sources  a folder of sources that answer steps answer from; else what they are asked is answered by lines
             such as ! says WORDS, or not known
  --json     one object a line

The conversation is a line each: what the person writes, #2 or [Label] to tap, +3h to wind the clock, > words
that are expected. All lines are in docs/loops.md. Status 0: as expected; 1: a finding that stops a loop, or an
expectation that was not met; 2: input that cannot be used.`;

/**
 * `./dartloop play`: plays a written conversation against loop files, without a server; the engine is the
 * server's. See {@link USAGE}.
 */
export async function play(args: string[]): Promise<number> {
  const { names, flags, values } = readArguments(args, {
    flags: ['json', 'help'],
    values: ['on', 'person', 'as', 'client', 'at', 'line', 'sources'],
  });
  if (flags.has('help')) {
    console.log(USAGE);
    return 0;
  }
  if (names.length === 0) throw new Unusable(`Name at least one file.\n\n${USAGE}`);
  const files = readLoops(names);
  const unusable = files.flatMap(({ name, read }) =>
    read.ok ? [] : read.problems.map((problem) => problemWords(name, problem)),
  );
  if (unusable.length > 0) throw new Unusable(unusable.join('\n'));
  const loops = soundLoops(files);
  const setting = readSetting(values, loops);
  const { known, client } = setting;
  const line = setting.line ?? {
    key: 'telegram',
    name: CHANNELS.telegram.name,
    channel: 'telegram' as const,
  };
  const around = known ? surroundingsOf(known) : {};
  const stops = files.flatMap(({ name, read }) => {
    if (!read.ok) return [];
    const others = loops.length > 1 ? loops.filter((other) => other !== read.loop) : undefined;
    return problemsOf(read.loop, { ...around, others }).map((finding) =>
      foundWords(foundIn(name, read, finding)),
    );
  });
  if (stops.length > 0) {
    console.error(stops.join('\n'));
    return 1;
  }
  const now = startOf(values.at, client.timeZone);
  // What reads documents is loaded where there are any.
  const { sources: folder } = values;
  const sources =
    folder === undefined
      ? null
      : await import('./sources').then(({ sourcesSay }) =>
          sourcesSay(folder, { channel: line.channel, client, now }),
        );
  const performance = new Performance(
    openRehearsal({
      loops,
      client,
      line,
      person: setting.person ?? stranger('person-1'),
      now,
      holidays: holidaysOf(client.country, client.languages, new Date(now).getUTCFullYear()),
      ...(known && {
        fields: known.fields,
        segments: known.segments,
        lists: known.lists,
        calendars: known.calendars,
      }),
    }),
    sources,
  );
  const print = (entries: RehearsalEntry[]) => {
    for (const entry of entries)
      console.log(
        flags.has('json') ? JSON.stringify(asJson(entry)) : inWords(entry, client.timeZone, line.channel),
      );
  };
  let status = 0;
  let number = 0;
  // Each line is answered as it comes, so that one can also play by hand.
  for await (const written of createInterface({ input: process.stdin })) {
    number++;
    const read = readScriptLine(written);
    if (typeof read === 'string') throw new Unusable(`Line ${number} of the conversation: ${read}.`);
    if (!read) continue;
    const performed = performance.perform(read);
    if (performed.kind === 'unusable')
      throw new Unusable(`Line ${number} of the conversation: ${performed.reason}.`);
    print(performed.entries);
    if (performed.kind === 'unmet') {
      console.error(`Line ${number}: ${performed.reason}.`);
      status = 1;
    }
  }
  print(performance.finish());
  return status;
}

function inWords(entry: RehearsalEntry, zone: string, channel: ChannelKind): string {
  const time = DateTime.fromMillis(entry.at, { zone }).toFormat('ccc HH:mm');
  const indented = (mark: string, text: string) =>
    `${time}  ${mark} ${text.replaceAll('\n', `\n${' '.repeat(13)}`)}`;
  if (entry.from === 'them') return indented('›', entry.text);
  if (entry.from === 'stage' || entry.from === 'outside')
    return indented(' ', `(${[entry.text, entry.reason].filter(Boolean).join('  ')})`);
  const buttons = CHANNELS[channel].taps ? entry.choices.map((label) => `\n[${label}]`).join('') : '';
  return indented(
    '‹',
    `${entry.text}${buttons}${entry.parts !== null && entry.parts > 1 ? `  (${entry.parts} parts)` : ''}`,
  );
}

/** One object a line; what does not belong to an entry is left out. */
function asJson(entry: RehearsalEntry): object {
  const at = new Date(entry.at).toISOString();
  if (entry.from === 'us')
    return {
      at,
      from: entry.from,
      text: entry.text,
      choices: entry.choices,
      ...(entry.parts !== null && { parts: entry.parts }),
    };
  return entry.from === 'stage' || entry.from === 'outside'
    ? { at, from: entry.from, text: entry.text, reason: entry.reason }
    : { at, from: entry.from, text: entry.text };
}

/**
 * Ten in the morning of today by the client's clock, so that quiet hours do not depend on when it is tried;
 * or as asked.
 */
function startOf(at: string | undefined, zone: string): number {
  const start =
    at === undefined
      ? DateTime.now().setZone(zone).set({ hour: 10, minute: 0, second: 0, millisecond: 0 })
      : DateTime.fromISO(at, { zone });
  if (!start.isValid) throw new Unusable(`“${at}” is no date and time; write 2026-11-25T10:00.`);
  return start.toMillis();
}
