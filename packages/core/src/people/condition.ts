import { z } from 'zod';
import { TimeOfDay, Weekday, isDate } from '../time/clockTime';
import { Duration, FieldKey, LineKey, ListName, LocalId, SegmentName, TagName } from '../loops/model/basics';
import { ChannelKind, LanguageCode } from './client';

/** How a field or an earlier answer is compared. */
export const COMPARISONS = [
  'known',
  'unknown',
  'equal',
  'not equal',
  'contains',
  'starts with',
  'above',
  'at least',
  'below',
  'at most',
  'between',
  'before',
  'after',
  'in the next',
  'in the last',
  'changed in the last',
] as const;
export type Comparison = (typeof COMPARISONS)[number];

const Operand = z.union(
  [z.string().max(400), z.number(), z.boolean()],
  'a value to compare with is a text, a number, or true or false',
);
/**
 * What a condition can be about. Those of a conversation can be asked only while one is going on; the others
 * say something about a person at any time.
 */
const OF_CONVERSATION = ['answer', 'channels', 'line', 'cue', 'time', 'weekdays', 'open'] as const;
const OF_PERSON = [
  'field',
  'tag',
  'list',
  'language',
  'reach',
  'optedIn',
  'optedOut',
  'entered',
  'finished',
  'underWay',
  'left',
  'heard',
  'source',
  'seen',
  'met',
  'segment',
] as const;
const SUBJECTS = ['all', 'any', 'not', ...OF_PERSON, ...OF_CONVERSATION] as const;

/**
 * Something that is true, false or unknown of a person at a moment. Exactly one subject; `field` and `answer`
 * need `is`, and most comparisons a `value`. For `tag`, `list`, `open` and what follows them, `is: false`
 * turns it round.
 */
export interface Condition {
  all?: Condition[];
  any?: Condition[];
  not?: Condition;
  field?: string;
  answer?: string;
  is?: Comparison | boolean;
  value?: string | number | boolean;
  to?: string | number;
  tag?: string;
  list?: string;
  channels?: ChannelKind[];
  line?: string;
  cue?: string;
  language?: string;
  time?: { from: string; to: string };
  weekdays?: Weekday[];
  open?: boolean;
  /** Has an identity on a line, by its key, or on any line of a channel. */
  reach?: string;
  /** Has last opted in or out on such a line; "any" for any. */
  optedIn?: string;
  optedOut?: string;
  /** Has ever entered or finished a loop, by its name; with `within`, in the last so long. */
  entered?: string;
  finished?: string;
  within?: string;
  /** Is under way in a loop, or has left it before its end; at a scene, by its id. */
  underWay?: { loop: string; scene?: string };
  left?: { loop: string; scene?: string };
  /** Came into a loop by one of its cues. */
  heard?: { loop: string; cue: string };
  /** How they came to be known: the name of an import. */
  source?: string;
  /** Was last, or first, met in the last so long. */
  seen?: string;
  met?: string;
  /** Belongs to a saved segment. */
  segment?: string;
}

const LoopScene = z.object({ loop: z.string().trim().min(1).max(120), scene: LocalId.optional() }).strict();
const LineOrChannel = LineKey;

export const Condition: z.ZodType<Condition> = z.lazy(() =>
  z
    .object({
      all: z.array(Condition).min(1).max(20).optional(),
      any: z.array(Condition).min(1).max(20).optional(),
      not: Condition.optional(),
      field: FieldKey.optional(),
      answer: z.string().min(1).max(40).optional(),
      is: z.union([z.enum(COMPARISONS), z.boolean()], `"is" is one of ${COMPARISONS.join(', ')}`).optional(),
      value: Operand.optional(),
      to: z.union([z.string().max(400), z.number()]).optional(),
      tag: TagName.optional(),
      list: ListName.optional(),
      channels: z.array(ChannelKind).min(1).optional(),
      line: LineKey.optional(),
      cue: LocalId.optional(),
      language: LanguageCode.optional(),
      time: z.object({ from: TimeOfDay, to: TimeOfDay }).strict().optional(),
      weekdays: z.array(Weekday).min(1).optional(),
      open: z.boolean().optional(),
      reach: LineOrChannel.optional(),
      optedIn: LineOrChannel.optional(),
      optedOut: LineOrChannel.optional(),
      entered: z.string().trim().min(1).max(120).optional(),
      finished: z.string().trim().min(1).max(120).optional(),
      within: Duration.optional(),
      underWay: LoopScene.optional(),
      left: LoopScene.optional(),
      heard: z
        .object({ loop: z.string().trim().min(1).max(120), cue: LocalId })
        .strict()
        .optional(),
      source: z.string().trim().min(1).max(120).optional(),
      seen: Duration.optional(),
      met: Duration.optional(),
      segment: SegmentName.optional(),
    })
    .strict()
    .superRefine((condition, context) => {
      const subjects = SUBJECTS.filter((subject) => condition[subject] !== undefined);
      const say = (message: string) => context.addIssue({ code: 'custom', message });
      if (subjects.length !== 1)
        return say(
          `a condition is about exactly one of ${SUBJECTS.join(', ')}; this one has ${subjects.length === 0 ? 'none' : subjects.join(' and ')}`,
        );
      if (
        condition.within !== undefined &&
        condition.entered === undefined &&
        condition.finished === undefined
      )
        return say('“within” goes with “entered” or “finished”');
      if (condition.field === undefined && condition.answer === undefined) return;
      const { is, value } = condition;
      if (typeof is !== 'string')
        return say(`a condition on a ${subjects[0]} says how it is compared: is: ${COMPARISONS.join(', ')}`);
      if (is === 'known' || is === 'unknown') return;
      if (value === undefined) return say(`“is: ${is}” needs a value to compare with`);
      if (/^(in the|changed)/.test(is) && !Duration.safeParse(value).success)
        return say(`“is: ${is}” needs a time such as "7d" as its value`);
      const impossible = [value, condition.to].find(
        (each) => typeof each === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(each) && !isDate(each),
      );
      if (impossible !== undefined) return say(`“${String(impossible)}” is no day of the calendar`);
      if (is === 'between' && condition.to === undefined)
        return say('“is: between” needs a value and a “to”');
      if ((is === 'before' || is === 'after') && !isMoment(String(value)))
        return say(
          `“${String(value)}” is not a date: write 2026-11-25, "today", "today+7d" or "today-1d", or a time such as 17:30`,
        );
    }),
);

/**
 * The first thing in a condition that can be asked only in a conversation; null when it says something about
 * a person at any time.
 */
export function ofConversation(condition: Condition): string | null {
  for (const each of [
    ...(condition.all ?? []),
    ...(condition.any ?? []),
    ...(condition.not ? [condition.not] : []),
  ]) {
    const found = ofConversation(each);
    if (found) return found;
  }
  return OF_CONVERSATION.find((subject) => condition[subject] !== undefined) ?? null;
}

/** "2026-11-25", "today", "today+7d", "today-1d" or "17:30". */
export function isMoment(words: string): boolean {
  return isDate(words) || /^today([+-]\d{1,4}d)?$/.test(words) || TimeOfDay.safeParse(words).success;
}

/** Every condition within one, itself included. */
export function* conditionsIn(condition: Condition): Iterable<Condition> {
  yield condition;
  for (const each of [
    ...(condition.all ?? []),
    ...(condition.any ?? []),
    ...(condition.not ? [condition.not] : []),
  ])
    yield* conditionsIn(each);
}
