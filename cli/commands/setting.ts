import { z } from 'zod';
import {
  CHANNELS,
  ChannelKind,
  ClientFacts,
  Value,
  fieldsOf,
  isZone,
  readReply,
  stranger,
  type FieldTypes,
  type LineFacts,
  type Loop,
  type PersonFacts,
} from '@dart-loop/core';
import { readClientFile, type KnownClient } from '@dart-loop/core/loops/file/clientFile';
import { readBySchema, type FileProblem } from '@dart-loop/core/loops/file/yamlFile';
import { Unusable } from '../machine';
import { problemWords, readText } from './loopFiles';

/** The options that say where a loop is looked at or played, as both commands explain them. */
export const SETTING = `  --client   the client: name, country, timeZone, languages, brief, openingHours, fields, lines (with templates),
             calendars, destinations, segments and lists
  --line     the key of one of the client's lines
  --on       a channel instead: ${ChannelKind.options.join(', ')}
  --person   the person: firstName, lastName, language, timeZone, fields, tags and lists (--as is the same)`;

export interface Setting {
  /** Null where no client was named. */
  known: KnownClient | null;
  /** The client as it is for most, where none was named. */
  client: ClientFacts;
  /** Null where neither a line nor a channel was named. */
  line: LineFacts | null;
  person: PersonFacts | null;
}

/** Reads the options of a setting. Throws {@link Unusable}. */
export function readSetting(values: Record<string, string>, loops: Loop[]): Setting {
  const known = values.client === undefined ? null : clientIn(values.client);
  const client = known?.client ?? ClientFacts.parse({ name: 'The client' });
  const person = values.person ?? values.as;
  return {
    known,
    client,
    line: lineOf(values, known),
    person: person === undefined ? null : personOf(person, loops, client, known),
  };
}

function clientIn(name: string): KnownClient {
  const read = readClientFile(readText(name));
  if (!read.ok) throw unusable(name, read.problems);
  return read.known;
}

const unusable = (name: string, problems: FileProblem[]) =>
  new Unusable(problems.map((problem) => problemWords(name, problem)).join('\n'));

function lineOf({ line: key, on }: Record<string, string>, known: KnownClient | null): LineFacts | null {
  const channel = on === undefined ? null : ChannelKind.safeParse(on);
  if (channel && !channel.success)
    throw new Unusable(`“${on}” is no channel; --on is one of ${ChannelKind.options.join(', ')}.`);
  const made = (kind: ChannelKind): LineFacts => ({
    key: key ?? kind,
    name: CHANNELS[kind].name,
    channel: kind,
  });
  const lines = known?.lines;
  if (!lines) return channel ? made(channel.data) : key === undefined ? null : made('telegram');
  const named = lines.find((line) => line.key === key) ?? null;
  if (key !== undefined && !named)
    throw new Unusable(
      `The client has no line “${key}”; its lines are ${lines.map((line) => line.key).join(', ')}.`,
    );
  if (named && channel && named.channel !== channel.data)
    throw new Unusable(`The line “${key}” is on ${named.channel} and not on ${channel.data}.`);
  if (named) return named;
  return channel ? (lines.find((line) => line.channel === channel.data) ?? made(channel.data)) : null;
}

/** Names as merge fields write them are taken too. */
const ALIASES: Record<string, string> = {
  first_name: 'firstName',
  last_name: 'lastName',
  time_zone: 'timeZone',
};

const Person = z
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
const PersonFile = z.preprocess(
  (given) =>
    given !== null && typeof given === 'object' && !Array.isArray(given)
      ? Object.fromEntries(Object.entries(given).map(([key, value]) => [ALIASES[key] ?? key, value]))
      : given,
  Person,
);

function personOf(name: string, loops: Loop[], client: ClientFacts, known: KnownClient | null): PersonFacts {
  const read = readBySchema(
    readText(name),
    'A person’s file has keys such as "firstName", "fields" and "tags".',
    PersonFile,
  );
  if (!read.ok) throw unusable(name, read.problems);
  const given = read.data;
  const types: FieldTypes = { ...Object.assign({}, ...loops.map(fieldsOf)), ...known?.fields };
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
        now: Date.now(),
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
