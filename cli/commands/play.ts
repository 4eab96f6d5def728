import { createInterface } from 'node:readline';
import { DateTime } from 'luxon';
import { z } from 'zod';
import {
  CHANNELS,
  ChannelKind,
  ClientFacts,
  Value,
  fieldsOf,
  isZone,
  problemsOf,
  readReply,
  stranger,
  type Loop,
  type PersonFacts,
} from '@dart-loop/core';
import { Performance } from '@dart-loop/core/engine/rehearsal/performance';
import { openRehearsal, type RehearsalEntry } from '@dart-loop/core/engine/rehearsal/rehearsal';
import { readScriptLine } from '@dart-loop/core/engine/rehearsal/script';
import { Unusable } from '../machine';
import { readArguments, readLoops, readText } from './loopFiles';

export const USAGE =
  './dartloop play FILE… --on telegram|sms [--as person.json] [--client client.json] [--at 2026-11-25T10:00] [--line KEY] [--json] < conversation.txt';

/** Names as merge fields write them are taken too. */
const ALIASES: Record<string, string> = {
  first_name: 'firstName',
  last_name: 'lastName',
  time_zone: 'timeZone',
};

const PersonFile = z
  .object({
    firstName: z.string().max(100),
    lastName: z.string().max(100),
    language: z.string().regex(/^[a-z]{2}$/, 'a language is two small letters, such as "es"'),
    timeZone: z.string().refine(isZone, 'a time zone is a name such as "Europe/Madrid"'),
    fields: z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.array(z.string()), Value])),
    tags: z.array(z.string()),
    lists: z.array(z.string()),
  })
  .partial()
  .strict();
const Person = z.preprocess(
  (given) =>
    given !== null && typeof given === 'object' && !Array.isArray(given)
      ? Object.fromEntries(Object.entries(given).map(([key, value]) => [ALIASES[key] ?? key, value]))
      : given,
  PersonFile,
);

/**
 * `./dartloop play`: plays a written conversation against loop files, without a server; the engine is the
 * server's. The first file's name does not matter, all are live. Status 0: as expected; 1: findings that stop
 * a loop, or an expectation that failed; 2: input that cannot be used.
 */
export async function play(args: string[]): Promise<number> {
  const { names, flags, values } = readArguments(args, {
    flags: ['json'],
    values: ['on', 'as', 'client', 'at', 'line'],
  });
  if (names.length === 0) throw new Unusable(`Name at least one file: ${USAGE}`);
  const channel = ChannelKind.safeParse(values.on ?? 'telegram');
  if (!channel.success)
    throw new Unusable(`“${values.on}” is no channel; --on is one of ${ChannelKind.options.join(', ')}.`);
  const files = readLoops(names);
  const unusable = files.flatMap(({ name, read }) =>
    read.ok
      ? []
      : read.problems.map((problem) => `${name}:${problem.line}:${problem.column}  ${problem.reason}`),
  );
  if (unusable.length > 0) throw new Unusable(unusable.join('\n'));
  const loops = files.map(({ read }) => (read as Extract<typeof read, { ok: true }>).loop);
  const stops = loops.flatMap((loop, index) =>
    problemsOf(loop, { others: loops.length > 1 ? loops.filter((other) => other !== loop) : undefined }).map(
      (finding) => `${names[index]}: ${finding.code}: ${finding.reason}`,
    ),
  );
  if (stops.length > 0) {
    console.error(stops.join('\n'));
    return 1;
  }
  const client =
    values.client === undefined
      ? ClientFacts.parse({ name: 'The client' })
      : parsed(ClientFacts, values.client);
  if (!isZone(client.timeZone))
    throw new Unusable(
      `${values.client}: “${client.timeZone}” is no time zone; write a name such as Europe/London.`,
    );
  const now = startOf(values.at, client.timeZone);
  const person =
    values.as === undefined ? { ...stranger('person-1') } : personOf(values.as, loops, client, now);
  const line = { key: values.line ?? channel.data, name: CHANNELS[channel.data].name, channel: channel.data };
  const performance = new Performance(openRehearsal({ loops, client, line, person, now }));
  const print = (entries: RehearsalEntry[]) => {
    for (const entry of entries)
      console.log(
        flags.has('json') ? JSON.stringify(asJson(entry)) : inWords(entry, client.timeZone, channel.data),
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

function parsed<T>(schema: z.ZodType<T, unknown>, name: string): T {
  const text = readText(name);
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new Unusable(`${name} is not JSON: ${(error as Error).message}.`);
  }
  const result = schema.safeParse(json);
  if (!result.success)
    throw new Unusable(
      `${name}: ${result.error.issues.map((issue) => `${issue.path.join('.') || 'the file'}: ${issue.message}`).join('; ')}.`,
    );
  return result.data;
}

function personOf(name: string, loops: Loop[], client: ClientFacts, now: number): PersonFacts {
  const given = parsed(Person, name);
  const types = Object.assign({}, ...loops.map(fieldsOf)) as ReturnType<typeof fieldsOf>;
  const fields: PersonFacts['fields'] = {};
  for (const [key, value] of Object.entries(given.fields ?? {})) {
    if (typeof value === 'object' && !Array.isArray(value)) fields[key] = value;
    else if (Array.isArray(value)) fields[key] = { type: 'several of', value };
    else {
      const type =
        types[key] ?? (typeof value === 'number' ? 'number' : typeof value === 'boolean' ? 'yes/no' : 'text');
      const written = value === true ? 'yes' : value === false ? 'no' : String(value);
      const reading = readReply(type, written, {
        country: client.country,
        language: 'en',
        now,
        zone: client.timeZone,
        days: 'any',
      });
      if (!reading.ok) throw new Unusable(`${name}: fields.${key} is no ${type}: ${reading.reason}.`);
      fields[key] = reading.value;
    }
  }
  if (given.timeZone) fields.time_zone = { type: 'text', value: given.timeZone };
  return {
    ...stranger('person-1'),
    firstName: given.firstName ?? null,
    lastName: given.lastName ?? null,
    language: given.language ?? null,
    fields,
    tags: given.tags ?? [],
    lists: given.lists ?? [],
  };
}
