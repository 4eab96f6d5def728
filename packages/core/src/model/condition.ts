import { z } from 'zod';
import { TimeOfDay, Weekday, addDays, isBetween, isDate, localTime } from '../time/zones';
import { isOpen } from '../time/openingHours';
import { fold } from '../words/fold';
import { Duration, FieldKey, LineKey, ListName, LocalId, TagName, durationMs } from './basics';
import { ChannelKind, LanguageCode, type ClientFacts, type LineFacts } from './client';
import { valueWords, type PersonFacts, type Value } from './person';

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

const Operand = z.union([z.string().max(400), z.number(), z.boolean()], 'a value to compare with is a text, a number, or true or false');
const SUBJECTS = [
  'all',
  'any',
  'not',
  'field',
  'answer',
  'tag',
  'list',
  'channels',
  'line',
  'cue',
  'language',
  'time',
  'weekdays',
  'open',
] as const;

/**
 * Something that is true, false or unknown of a person at a moment. Exactly one subject; `field` and `answer` need `is`,
 * and most comparisons a `value`. For `tag`, `list` and `open`, `is: false` turns it round.
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
}

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
    })
    .strict()
    .superRefine((condition, context) => {
      const subjects = SUBJECTS.filter((subject) => condition[subject] !== undefined);
      const say = (message: string) => context.addIssue({ code: 'custom', message });
      if (subjects.length !== 1)
        return say(
          `a condition is about exactly one of ${SUBJECTS.join(', ')}; this one has ${subjects.length === 0 ? 'none' : subjects.join(' and ')}`,
        );
      if (condition.field === undefined && condition.answer === undefined) return;
      const { is, value } = condition;
      if (typeof is !== 'string') return say(`a condition on a ${subjects[0]} says how it is compared: is: ${COMPARISONS.join(', ')}`);
      if (is === 'known' || is === 'unknown') return;
      if (value === undefined) return say(`“is: ${is}” needs a value to compare with`);
      if (/^(in the|changed)/.test(is) && !Duration.safeParse(value).success)
        return say(`“is: ${is}” needs a time such as "7d" as its value`);
      const impossible = [value, condition.to].find(
        (each) => typeof each === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(each) && !isDate(each),
      );
      if (impossible !== undefined) return say(`“${String(impossible)}” is no day of the calendar`);
      if (is === 'between' && condition.to === undefined) return say('“is: between” needs a value and a “to”');
      if ((is === 'before' || is === 'after') && !isMoment(String(value)))
        return say(`“${String(value)}” is not a date: write 2026-11-25, "today", "today+7d" or "today-1d", or a time such as 17:30`);
    }),
);

/** What a condition may look at. */
export interface ConditionWorld {
  now: number;
  zone: string;
  client: ClientFacts;
  line: LineFacts;
  person: PersonFacts;
  language: string;
  cueId: string;
  answers: Record<string, Value>;
}

/** Whether a condition holds: true, false, or null when what it is about is not known. Unknown is neither. */
export function holds(condition: Condition, world: ConditionWorld): boolean | null {
  if (condition.all) return every(condition.all.map((each) => holds(each, world)));
  if (condition.any) return not(every(condition.any.map((each) => not(holds(each, world)))));
  if (condition.not) return not(holds(condition.not, world));
  const wanted = condition.is !== false;
  if (condition.tag !== undefined) return world.person.tags.includes(condition.tag) === wanted;
  if (condition.list !== undefined) return world.person.lists.includes(condition.list) === wanted;
  if (condition.channels) return condition.channels.includes(world.line.channel);
  if (condition.line !== undefined) return world.line.key === condition.line;
  if (condition.cue !== undefined) return world.cueId === condition.cue;
  if (condition.language !== undefined) return world.language === condition.language;
  const local = localTime(world.now, world.zone);
  if (condition.time) return isBetween(local.time, condition.time.from, condition.time.to);
  if (condition.weekdays) return condition.weekdays.includes(local.weekday);
  if (condition.open !== undefined) return isOpen(world.client.openingHours, world.now, world.client.timeZone) === condition.open;
  const value = (condition.field !== undefined ? world.person.fields[condition.field] : world.answers[condition.answer!]) ?? null;
  if (condition.is === 'changed in the last') {
    const at = world.person.changed[condition.field ?? ''];
    return at !== undefined && at > world.now - durationMs(String(condition.value));
  }
  return compare(value, condition, local.date);
}

const not = (value: boolean | null) => (value === null ? null : !value);
const every = (values: (boolean | null)[]) => (values.includes(false) ? false : values.includes(null) ? null : true);

/** "2026-11-25", "today", "today+7d", "today-1d" or "17:30". */
function isMoment(words: string): boolean {
  return isDate(words) || /^today([+-]\d{1,4}d)?$/.test(words) || TimeOfDay.safeParse(words).success;
}

function moment(words: string, today: string): string {
  const found = /^today(?:([+-]\d+)d)?$/.exec(words);
  return found ? addDays(today, Number(found[1] ?? 0)) : words;
}

function compare(value: Value | null, { is, value: operand, to }: Condition, today: string): boolean | null {
  if (is === 'known') return value !== null;
  if (is === 'unknown') return value === null;
  if (value === null || operand === undefined) return null;
  if (value.type === 'date' || value.type === 'time') {
    const mine = value.value;
    const theirs = moment(String(operand), today);
    switch (is) {
      case 'equal':
        return mine === theirs;
      case 'not equal':
        return mine !== theirs;
      case 'before':
      case 'below':
        return mine < theirs;
      case 'after':
      case 'above':
        return mine > theirs;
      case 'at least':
        return mine >= theirs;
      case 'at most':
        return mine <= theirs;
      case 'between':
        return mine >= theirs && mine <= moment(String(to), today);
      case 'in the next':
        return value.type === 'date' ? mine >= today && mine <= addDays(today, days(operand)) : null;
      case 'in the last':
        return value.type === 'date' ? mine <= today && mine >= addDays(today, -days(operand)) : null;
      default:
        return null;
    }
  }
  if (value.type === 'number') {
    const theirs = Number(operand);
    if (Number.isNaN(theirs)) return null;
    switch (is) {
      case 'equal':
        return value.value === theirs;
      case 'not equal':
        return value.value !== theirs;
      case 'above':
        return value.value > theirs;
      case 'at least':
        return value.value >= theirs;
      case 'below':
        return value.value < theirs;
      case 'at most':
        return value.value <= theirs;
      case 'between':
        return value.value >= theirs && value.value <= Number(to);
      default:
        return null;
    }
  }
  if (value.type === 'yes/no') {
    const theirs = operand === true || operand === 'yes' ? true : operand === false || operand === 'no' ? false : null;
    if (theirs === null || (is !== 'equal' && is !== 'not equal')) return null;
    return (value.value === theirs) === (is === 'equal');
  }
  const theirs = fold(String(operand));
  const parts = value.type === 'several of' ? value.value.map(fold) : null;
  const mine = fold(valueWords(value));
  switch (is) {
    case 'equal':
      return parts ? parts.length === 1 && parts[0] === theirs : mine === theirs;
    case 'not equal':
      return parts ? !parts.includes(theirs) : mine !== theirs;
    case 'contains':
      return parts ? parts.includes(theirs) : mine.includes(theirs);
    case 'starts with':
      return mine.startsWith(theirs);
    default:
      return null;
  }
}

const days = (operand: string | number | boolean) => Math.floor(durationMs(String(operand)) / 86_400_000);

/** A condition as the script words it: "party size is at least 4". */
export function conditionWords(condition: Condition): string {
  const name = (key: string) => key.replaceAll('_', ' ');
  if (condition.all) return condition.all.map(inner).join(' and ');
  if (condition.any) return condition.any.map(inner).join(' or ');
  if (condition.not) return `not (${conditionWords(condition.not)})`;
  const turned = condition.is === false ? 'not ' : '';
  if (condition.tag !== undefined) return `${turned}tagged ${condition.tag}`;
  if (condition.list !== undefined) return `${turned}on the list ${condition.list}`;
  if (condition.channels) return `on ${condition.channels.join(' or ')}`;
  if (condition.line !== undefined) return `on the line ${condition.line}`;
  if (condition.cue !== undefined) return `came by the cue ${condition.cue}`;
  if (condition.language !== undefined) return `speaks ${condition.language}`;
  if (condition.time) return `it is between ${condition.time.from} and ${condition.time.to}`;
  if (condition.weekdays) return `it is ${condition.weekdays.map((day) => day[0]!.toUpperCase() + day.slice(1)).join(' or ')}`;
  if (condition.open !== undefined) return condition.open ? 'it is open' : 'it is closed';
  const subject = name(condition.field ?? condition.answer ?? '');
  const value =
    condition.value === undefined ? '' : ` ${condition.value === true ? 'yes' : condition.value === false ? 'no' : condition.value}`;
  switch (condition.is) {
    case 'equal':
      return `${subject} is${value}`;
    case 'not equal':
      return `${subject} is not${value}`;
    case 'contains':
    case 'starts with':
      return `${subject} ${condition.is}${value}`;
    case 'between':
      return `${subject} is between${value} and ${condition.to}`;
    case 'changed in the last':
      return `${subject} has changed in the last${value}`;
    default:
      return `${subject} is ${String(condition.is)}${value}`;
  }
}

function inner(condition: Condition): string {
  return condition.all || condition.any ? `(${conditionWords(condition)})` : conditionWords(condition);
}
