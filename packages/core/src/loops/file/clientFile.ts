import { z } from 'zod';
import { Calendar, withNothingTaken, type CalendarFacts } from '../../booking/calendar';
import { TemplateName } from '../../channels/templates';
import { fold } from '../../language/fold';
import { ChannelKind, ClientFacts, type LineFacts } from '../../people/client';
import type { Condition } from '../../people/condition';
import { ListDefinition, type ListFacts } from '../../people/list';
import { FieldType, type FieldTypes } from '../../people/person';
import { isZone } from '../../time/clockTime';
import type { KnownDestination, Surroundings } from '../check/check';
import { readSentence, whyUnread } from '../edit/typedCondition';
import { CHANNELS } from '../../channels';
import { DestinationName, FieldKey, LineKey, SegmentName } from '../model/basics';
import { readBySchema, type FileProblem } from './yamlFile';

const Template = z
  .object({
    name: TemplateName,
    language: z.string().min(2).max(10).default('en'),
    status: z.enum(['approved', 'pending', 'rejected', 'paused']).default('approved'),
    category: z.string().default('utility'),
    body: z.string().min(1).max(1_024),
    buttons: z.array(z.string().min(1).max(25)).max(10).default([]),
  })
  .strict()
  .transform((template) => ({
    ...template,
    parameters: new Set(template.body.match(/\{\{\d+\}\}/g) ?? []).size,
  }));

const Line = z
  .object({
    key: LineKey,
    channel: ChannelKind,
    name: z.string().min(1).max(120).optional(),
    templates: z.array(Template).max(500).optional(),
  })
  .strict()
  .transform((line): LineFacts => ({
    ...line,
    name: line.name ?? `${CHANNELS[line.channel].name} (${line.key})`,
  }));

/** A segment is a sentence, as it is typed in the app: "size is at least 45". */
const Segment = z.string().transform((written, context): Condition => {
  const read = readSentence(written);
  if (read.ok) return read.condition;
  context.addIssue({ code: 'custom', message: whyUnread(read) });
  return z.NEVER;
});

const ClientFile = ClientFacts.extend({
  timeZone: z
    .string()
    .refine(isZone, 'a time zone is a name such as "Europe/London"')
    .default('Europe/London'),
  fields: z.record(FieldKey, FieldType).default({}),
  lines: z.array(Line).min(1).max(100).optional(),
  calendars: z.array(Calendar).max(100).optional(),
  destinations: z.array(DestinationName).max(100).optional(),
  segments: z.record(SegmentName, Segment).optional(),
  lists: z.array(ListDefinition).max(200).optional(),
}).strict();

/** A client as its file tells of it; what the file leaves out is not known. */
export interface KnownClient {
  client: ClientFacts;
  fields: FieldTypes;
  lines?: LineFacts[];
  calendars?: CalendarFacts[];
  destinations?: KnownDestination[];
  /** By their folded names. */
  segments?: Record<string, Condition>;
  lists?: Record<string, ListFacts>;
}

/**
 * Reads what surrounds loops from YAML or JSON: the client's facts, and of its fields, lines with templates,
 * calendars, destinations, segments and lists whatever the file has. Every problem names its line and column;
 * keys that are not known are problems.
 */
export function readClientFile(
  text: string,
): { ok: true; known: KnownClient } | { ok: false; problems: FileProblem[] } {
  const read = readBySchema(
    text,
    'A client’s file has keys such as "name", "timeZone" and "lines".',
    ClientFile,
  );
  if (!read.ok) return read;
  const { fields, lines, calendars, destinations, segments, lists, ...client } = read.data;
  const byName = <T>(all: [string, T][]) => Object.fromEntries(all.map(([name, each]) => [fold(name), each]));
  return {
    ok: true,
    known: {
      client,
      fields,
      ...(lines && { lines }),
      ...(calendars && {
        calendars: withNothingTaken(
          calendars.map((calendar, at) => ({ id: `calendar-${at + 1}`, calendar })),
        ),
      }),
      ...(destinations && {
        destinations: destinations.map((name) => ({ name, before: [], state: 'on' as const, failure: null })),
      }),
      ...(segments && { segments: byName(Object.entries(segments)) }),
      ...(lists && { lists: byName(lists.map((list) => [list.name, { ...list, version: 1 }])) }),
    },
  };
}

/** The same for the checks. */
export const surroundingsOf = ({ client, fields, ...known }: KnownClient): Surroundings => ({
  ...known,
  types: fields,
  brief: client.brief,
  client,
});
