import { z } from 'zod';
import { Condition, ofConversation } from '@dart-loop/core/people/condition';
import { FieldDefinition, FieldType } from '@dart-loop/core/people/person';
import { ListName, SegmentName, TagName } from '@dart-loop/core/loops/model/basics';
import { ListDefinition } from '@dart-loop/core/people/list';
import { QuietByChannel } from '@dart-loop/core/consent/quietHours';
import type { ChannelKind, TakePerson } from '@dart-loop/core';

export const uuid = z.string().regex(/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/, 'an id of a person');
/** Which people: a search, and a sentence such as "opted in on SMS and town is Harwick". */
export const which = {
  q: z.string().trim().max(100).default(''),
  where: z.string().trim().max(2_000).default(''),
};
export const PeopleQuery = z.object({
  ...which,
  after: z.string().max(80).optional(),
  /** Fields whose values are wanted, by their keys, parted by commas. */
  columns: z
    .string()
    .max(1_000)
    .default('')
    .transform((text) => text.split(',').filter(Boolean).slice(0, 12)),
});
export const CountQuery = z.object(which);

export interface PersonRow {
  id: string;
  name: string;
  channels: ChannelKind[];
  /** The first few facts in words: "email mira@example.org". */
  facts: string[];
  /** Values of the columns that were asked for, by field. */
  cells: Record<string, string>;
  tags: string[];
  lastSeenAt: string;
}
export interface PeoplePage {
  rows: PersonRow[];
  next: string | null;
}
/** How many there are, and a few of them. */
export interface PeopleCount {
  total: number;
  sample: { id: string; name: string }[];
  /** The sentence as it was understood; null where there is none. */
  understood: string | null;
  rule: Condition | null;
}

/** Who or what changed something, in words, with the place to go to. */
export interface By {
  words: string;
  loopId: string | null;
  stepId: string | null;
}
/** What a rehearsal takes over of somebody. */
export type PersonForRehearsal = Omit<TakePerson, 'id'> & { name: string };

/** One thing on a person's timeline. */
export interface TimelineEntry {
  at: string;
  kind:
    'fact' | 'tag' | 'list' | 'consent' | 'conversation' | 'run' | 'delivery' | 'booking' | 'merge' | 'task';
  words: string;
  /** Who or what did it; null where the words say so. */
  by: By | null;
  /** Where it can be looked at, below the client's address. */
  link: string | null;
}

export interface PersonPage {
  id: string;
  name: string;
  firstName: string | null;
  lastName: string | null;
  language: string | null;
  source: string | null;
  createdAt: string;
  lastSeenAt: string;
  identities: {
    id: string;
    channel: ChannelKind;
    line: string;
    lineId: number;
    address: string;
    handle: string | null;
    since: string;
    optedIn: boolean;
    optedOut: boolean;
  }[];
  facts: {
    key: string;
    name: string;
    type: string;
    words: string;
    personal: boolean;
    at: string | null;
    by: By | null;
  }[];
  tags: { tag: string; at: string | null; by: By | null }[];
  lists: { list: string; at: string | null; by: By | null }[];
  timeline: TimelineEntry[];
  /** Others who may be the same person. */
  alike: Alike[];
  /** Who has become this one, and until when that can be taken back. */
  merged: { id: string; name: string; at: string; until: string }[];
}
export interface Alike {
  id: string;
  name: string;
  /** What they have in common: "+44 7700 900144". */
  shared: string[];
}

/** What is to become of one person. A field is written as it is typed; null takes its value away. */
export const EditPerson = z
  .object({
    firstName: z.string().trim().max(120).nullable().optional(),
    lastName: z.string().trim().max(120).nullable().optional(),
    language: z
      .string()
      .regex(/^[a-z]{2}$/, 'a language is two small letters, such as "es"')
      .nullable()
      .optional(),
    fields: z.record(z.string().max(40), z.string().max(4_096).nullable()).optional(),
    tagsOn: z.array(TagName).max(50).optional(),
    tagsOff: z.array(TagName).max(50).optional(),
    listsOn: z.array(ListName).max(50).optional(),
    listsOff: z.array(ListName).max(50).optional(),
    /** What being put on a list rests on; needed with `listsOn`. */
    stated: z.string().trim().max(400).optional(),
  })
  .strict()
  .refine((edit) => !edit.listsOn?.length || Boolean(edit.stated), {
    path: ['stated'],
    message: 'say what the opt-in rests on, such as “asked at the till on 3 June”',
  });
export type EditPerson = z.infer<typeof EditPerson>;

/** Opts somebody out on the team's word; opting in is theirs alone. */
export const OptOut = z.object({
  of: z.discriminatedUnion('scope', [
    z.object({ scope: z.literal('everything') }),
    z.object({ scope: z.literal('line'), lineId: z.number().int() }),
    z.object({ scope: z.literal('list'), list: ListName }),
  ]),
  stated: z.string().trim().min(1, 'say how they asked for it').max(400),
});
export type OptOut = z.infer<typeof OptOut>;

/** A printable account of what one person has agreed to and taken back. */
export interface Proof {
  client: string;
  name: string;
  identities: { line: string; address: string }[];
  madeAt: string;
  entries: {
    at: string;
    /** `undone`: an entry before it counts no more. */
    what: 'opt-in' | 'opt-out' | 'undone';
    about: string;
    words: string;
    wording: number | null;
    language: string | null;
    stated: string | null;
    confirmed: boolean;
    by: string;
    cue: string | null;
    step: string | null;
    messageId: string | null;
  }[];
}

/** That somebody was erased: when, by whom, why, and how much was; nothing about them. */
export interface ErasureReceipt {
  id: string;
  at: string;
  /** Null: by itself, after the time that the client keeps people for. */
  by: string | null;
  reason: string;
  /** Rows by what they held, those that there were. */
  counts: Record<string, number>;
}

export const MergePeople = z.object({
  other: uuid,
  /** Fields, first and last name where the other's value is taken over this one's. */
  take: z.array(z.string().max(40)).max(500).default([]),
});
export interface MergePreview {
  kept: { id: string; name: string };
  gone: { id: string; name: string };
  /** What differs; `same` is left out. `key` is "first name", "last name" or a field's. */
  differing: { key: string; name: string; kept: string | null; gone: string | null }[];
  /** What comes over without a choice. */
  comesOver: string[];
}
export const OtherPerson = z.object({ other: uuid });

export interface FieldRow extends FieldDefinition {
  /** How many people have a value. */
  known: number;
  /** Loops that ask, set or merge it. */
  loops: string[];
  /** Whether the agency's shared set has a field of this key, and what differs. */
  shared: 'no' | 'same' | string[];
}
export interface FieldsPage {
  fields: FieldRow[];
  /** Fields of the agency's shared set that the client does not have. */
  missing: FieldDefinition[];
}
export const EditField = FieldDefinition.omit({ key: true, type: true });
export const ChangeType = z.object({ type: FieldType, dry: z.boolean() });
/** What a change of type would do. */
export interface TypeChangePreview {
  converts: number;
  /** Values that do not convert, each once, with how many have it. */
  lost: { words: string; reason: string; count: number }[];
}
export const ShareFields = z.object({
  keys: z.array(z.string().max(40)).min(1).max(200),
  clients: z.array(z.string().max(80)).max(500).default([]),
});

export interface ListRow extends ListDefinition {
  members: number;
  /** Every wording, the newest first. */
  wordings: { version: number; words: string; at: string; by: string | null }[];
}
export { ListDefinition };

export const SaveSegment = z.object({
  name: SegmentName,
  rule: Condition.refine((rule) => ofConversation(rule) === null, {
    error: ({ input }) =>
      `a segment is about people at any time; “${ofConversation(input as Condition)}” can be asked only within a conversation`,
  }),
});
export interface SegmentRow {
  id: string;
  name: string;
  words: string;
  rule: Condition;
  /** Loops whose splits ask for it. */
  loops: string[];
}

/** When and how often nobody-asked-for messages go, who becomes one with whom, and how long is kept what. */
export const SendingSettings = z
  .object({
    quiet: QuietByChannel,
    frequency: z
      .object({
        perDay: z.number().int().min(1, 'at least 1, or no limit').max(1_000).nullable(),
        perWeek: z.number().int().min(1, 'at least 1, or no limit').max(1_000).nullable(),
      })
      .strict(),
    matching: z.enum(['suggested', 'automatic']),
    retention: z
      .object({
        messages: z.number().int().min(1, 'at least 1 day, or for ever').max(36_500).nullable(),
        people: z.number().int().min(30, 'at least 30 days, or for ever').max(36_500).nullable(),
      })
      .strict(),
  })
  .strict();
export type SendingSettings = z.infer<typeof SendingSettings>;

/** What a sentence about people may name. */
export interface PeopleVocabulary {
  fields: { key: string; name: string; type: FieldType; options: string[] }[];
  tags: string[];
  lists: string[];
  lines: { id: number; key: string; name: string; channel: ChannelKind }[];
  loops: { id: string; name: string; live: boolean; scenes: { id: string; name: string }[] }[];
  sources: string[];
  segments: { id: string; name: string }[];
  /** Destinations that are not off. */
  destinations: { id: string; name: string }[];
}
