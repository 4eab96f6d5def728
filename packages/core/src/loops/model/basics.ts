import { counted } from '../../language/counted';
import { z } from 'zod';
import { LanguageCode } from '../../people/client';

/**
 * Ids of scenes, steps, choices and cues: short, stable when things are renamed, safe inside a tapped
 * button's payload.
 */
export const LocalId = z
  .string()
  .regex(
    /^[a-z0-9][a-z0-9-]{0,15}$/,
    'an id has 1 to 16 small letters, digits or hyphens and starts with a letter or digit',
  );

/** Keys of fields, tags and lines: what people read and write in files and merge fields. */
export const FieldKey = z
  .string()
  .regex(
    /^[a-z][a-z0-9_]{0,39}$/,
    'a field has 1 to 40 small letters, digits or underscores and starts with a letter, such as "email" or "party_size"',
  );
export const LineKey = z
  .string()
  .regex(
    /^[a-z0-9][a-z0-9-]{0,39}$/,
    'a line is named by its key: small letters, digits and hyphens, such as "sms" or "telegram-2"',
  );
export const ListName = z
  .string()
  .trim()
  .min(1, 'a list needs a name')
  .max(60, 'a list has at most 60 characters');
export const SegmentName = z
  .string()
  .trim()
  .min(1, 'a segment needs a name')
  .max(60, 'a segment has at most 60 characters');
export const DestinationName = z
  .string()
  .trim()
  .min(1, 'a destination needs a name')
  .max(60, 'a destination has at most 60 characters');
export const CalendarName = z
  .string()
  .trim()
  .min(1, 'a calendar needs a name')
  .max(60, 'a calendar has at most 60 characters');
export const TagName = z
  .string()
  .trim()
  .min(1, 'a tag needs a name')
  .max(60, 'a tag has at most 60 characters');

/** Where a choice or an exit leads: to the next step, to the end of the run, or to a scene by its id. */
export const NEXT = 'next';
export const END = 'end';
export const Target = z.union(
  [z.literal(NEXT), z.literal(END), LocalId],
  'a target is "next", "end" or the id of a scene',
);
export type Target = z.infer<typeof Target>;

const UNITS = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 } as const;
const UNIT_WORDS = { s: 's', m: 'min', h: 'h', d: 'd' } as const;

/** A length of time as people write it: "45s", "30m", "3h", "2d". At most 365 days. */
export const Duration = z
  .string()
  .regex(/^[1-9]\d{0,5}[smhd]$/, 'a time is a whole number and a unit, such as "30m", "3h" or "2d"')
  .refine(
    (text) => !/^\d+[smhd]$/.test(text) || durationMs(text) <= 365 * UNITS.d,
    'a time is at most 365 days',
  );

/** Milliseconds of a {@link Duration}. */
export function durationMs(duration: string): number {
  return Number(duration.slice(0, -1)) * UNITS[duration.slice(-1) as keyof typeof UNITS];
}

/** A {@link Duration} as it is shown: "3 h". */
export function durationWords(duration: string): string {
  return `${duration.slice(0, -1)} ${UNIT_WORDS[duration.slice(-1) as keyof typeof UNITS]}`;
}

/** Goes on by itself after a time. */
export const AfterExit = z.object({ after: Duration, to: Target }).strict();

export const MOST_REMINDERS = 5;
/** Said while nobody replies, before the exit for that; in the languages that it is worded in. */
export const Reminder = z
  .object({
    after: Duration,
    text: z.string().trim().min(1, 'a reminder needs its words').max(4_096),
    variants: z.record(LanguageCode, z.string().trim().min(1).max(4_096)).optional(),
  })
  .strict();
export type Reminder = z.infer<typeof Reminder>;

/** What a waiting step may carry beside its own text; the same for every step that waits. */
export const waitingParts = {
  /** Said again when a reply cannot be read, `times` times at most. */
  retry: z
    .object({ times: z.number().int().min(1).max(5), text: z.string().min(1).max(4_096) })
    .strict()
    .optional(),
  /** The exit "could not read it", taken after the last retry. */
  otherwise: Target.optional(),
  /** The exit "something else": words that are none of the answers lead here at once, without a retry. */
  somethingElse: Target.optional(),
  /** The exit for whoever says that they do not know. */
  dontKnow: Target.optional(),
  /** The exit for "never mind" and its like. */
  cancel: Target.optional(),
  /** Said one after the other while nobody replies; each so long after the question. */
  reminders: z
    .array(Reminder)
    .min(1)
    .max(MOST_REMINDERS)
    .refine(
      (all) => all.every(({ after }, at) => at === 0 || durationMs(after) > durationMs(all[at - 1]!.after)),
      'each reminder comes later than the one before it',
    )
    .optional(),
  /** The exit "no reply in …". */
  noReply: AfterExit.optional(),
};

export type WaitingParts = {
  retry?: { times: number; text: string };
  otherwise?: Target;
  somethingElse?: Target;
  dontKnow?: Target;
  cancel?: Target;
  reminders?: Reminder[];
  noReply?: { after: string; to: Target };
};

/**
 * By what a run leaves a step. What the person does comes first, then what they leave undone, then what is
 * not theirs.
 */
export type ExitKind =
  | 'choice'
  | 'answer'
  | 'skipped'
  | 'could not read'
  | 'something else'
  | 'does not know'
  | 'never mind'
  | 'no reply'
  | 'condition'
  | 'chance'
  | 'go'
  | 'off duty'
  | 'given up'
  | 'not delivered'
  | 'nothing free'
  | 'not known'
  | 'wants a person';

/** One way out of a step other than falling through to the next one. */
export interface Exit {
  kind: ExitKind;
  /** How the script words it: the choice's label, "no reply in 3 h". */
  words: string;
  to: Target;
  /** Where in the step the target stands, for editing: e.g. ["choices", 0, "to"]. */
  path: (string | number)[];
}

/** Reminders in the order in which they are said; of two at one time the one that stands later. */
export function inOrder(reminders: readonly Reminder[]): Reminder[] {
  const byTime = new Map(reminders.map((each) => [durationMs(each.after), each]));
  return [...byTime].sort(([one], [other]) => one - other).map(([, each]) => each);
}

/** The texts that every waiting step shares beside its own. */
export const waitingTexts = ({ retry, reminders }: WaitingParts): string[] => [
  ...(retry ? [retry.text] : []),
  ...(reminders ?? []).flatMap(({ text, variants }) => [text, ...Object.values(variants ?? {})]),
];

/** The exits that every waiting step shares. */
export function waitingExits(step: WaitingParts): Exit[] {
  const exits: Exit[] = [];
  if (step.otherwise) {
    const times = step.retry?.times ?? 0;
    const words =
      times === 0 ? 'could not read it' : `could not read it, after ${counted(times, 'retry', 'retries')}`;
    exits.push({ kind: 'could not read', words, to: step.otherwise, path: ['otherwise'] });
  }
  if (step.somethingElse)
    exits.push({
      kind: 'something else',
      words: 'something else',
      to: step.somethingElse,
      path: ['somethingElse'],
    });
  if (step.dontKnow)
    exits.push({ kind: 'does not know', words: 'does not know', to: step.dontKnow, path: ['dontKnow'] });
  if (step.cancel) exits.push({ kind: 'never mind', words: 'never mind', to: step.cancel, path: ['cancel'] });
  if (step.noReply)
    exits.push({
      kind: 'no reply',
      words: `no reply in ${durationWords(step.noReply.after)}`,
      to: step.noReply.to,
      path: ['noReply', 'to'],
    });
  return exits;
}
