import { CHANNEL_NAMES } from '../../channels/names';
import { CHANNEL_KINDS, type ChannelKind } from '../../people/client';
import { Condition, type Comparison } from '../../people/condition';
import { WEEKDAYS, type Weekday } from '../../time/clockTime';
import { fieldKey } from '../../language/slug';
import { readDuration, readTimeOfDay } from './typedTime';

/** From the longest on, so that "is not" is not read as "is". */
const COMPARED: [string, Comparison][] = [
  ['has changed in the last', 'changed in the last'],
  ['changed in the last', 'changed in the last'],
  ['is in the next', 'in the next'],
  ['is in the last', 'in the last'],
  ['is at least', 'at least'],
  ['is at most', 'at most'],
  ['is between', 'between'],
  ['is above', 'above'],
  ['is below', 'below'],
  ['is before', 'before'],
  ['is after', 'after'],
  ['starts with', 'starts with'],
  ['contains', 'contains'],
  ['is not', 'not equal'],
  ['>=', 'at least'],
  ['<=', 'at most'],
  ['>', 'above'],
  ['<', 'below'],
  ['!=', 'not equal'],
  ['=', 'equal'],
  ['is', 'equal'],
];

/** What a typed condition was read as, or which words of it could not be. */
export type ReadCondition =
  | { ok: true; condition: Condition }
  /** `unclosed`: a bracket or quotation mark that has no other, and where it stands, in characters from 1. */
  | { ok: false; words: string; unclosed?: { mark: string; at: number } };

/** Why a sentence cannot be read, in a sentence. */
export function whyUnread({ words, unclosed }: Extract<ReadCondition, { ok: false }>): string {
  if (!unclosed) return `“${words.slice(0, 80)}” cannot be read`;
  const { mark, at } = unclosed;
  return mark === ')'
    ? `the bracket “)” at character ${at} closes nothing`
    : `the ${mark === '(' ? 'bracket' : 'quotation mark'} “${mark}” at character ${at} is not closed`;
}

/**
 * A condition as it is typed: "town is Harwick", "party size is at least 8", "tag vip", "not in list News",
 * "on sms", "opted in on sms", "entered Sailing alerts in the last 30 days", joined with "and", "or", "not"
 * and brackets; "and" binds closer. Words in quotation marks are taken as they are. Null when it cannot be
 * read.
 */
export function readCondition(written: string): Condition | null {
  const read = readSentence(written);
  return read.ok ? read.condition : null;
}

/** The same, with the words that could not be read. */
export function readSentence(written: string): ReadCondition {
  const unclosed = unclosedIn(written);
  return unclosed ? { ok: false, words: written.slice(unclosed.at - 1).trim(), unclosed } : readPart(written);
}

/** The first bracket or quotation mark that has no other. */
function unclosedIn(text: string): { mark: string; at: number } | null {
  const open: number[] = [];
  let quote: number | null = null;
  for (let at = 0; at < text.length; at++) {
    const letter = text[at];
    if (quote !== null && letter === '\\') at++;
    else if (letter === '"') quote = quote === null ? at : null;
    else if (quote !== null) continue;
    else if (letter === '(') open.push(at);
    else if (letter === ')' && open.pop() === undefined) return { mark: ')', at: at + 1 };
  }
  const first = open[0] ?? quote;
  return first === null || first === undefined ? null : { mark: text[first]!, at: first + 1 };
}

function readPart(written: string): ReadCondition {
  const text = written.trim();
  if (text === '') return { ok: false, words: '' };
  // Something is still to come.
  if (/(^|\s)(and|or|not)$/i.test(text)) return { ok: false, words: text };
  const strict = readStrict(text);
  if (strict) return { ok: true, condition: strict };
  for (const [word, key] of [
    ['or', 'any'],
    ['and', 'all'],
  ] as const) {
    const parts = parted(text, word);
    if (parts.length < 2) continue;
    const read = parts.map(readPart);
    const unread = read.find((each) => !each.ok);
    if (unread) return unread;
    const conditions = read.flatMap((each) => (each.ok ? [each.condition] : []));
    return conditions.length > 20
      ? { ok: false, words: text }
      : { ok: true, condition: { [key]: conditions } };
  }
  const bracketed = withinBrackets(text);
  if (bracketed !== null) return readPart(bracketed);
  const negated = /^not\s+(.*)$/is.exec(text)?.[1]?.trim();
  if (negated !== undefined) {
    const read = readPart(negated);
    return read.ok
      ? {
          ok: true,
          condition: withinBrackets(negated) === null ? turned(read.condition) : { not: read.condition },
        }
      : read;
  }
  const found = readPlain(text);
  const condition = found && Condition.safeParse(found);
  return condition?.success ? { ok: true, condition: condition.data } : { ok: false, words: text };
}

function turned(found: Condition): Condition {
  if (found.open !== undefined) return { open: !found.open };
  const kept =
    found.field ??
    found.answer ??
    found.channels ??
    found.language ??
    found.line ??
    found.cue ??
    found.not ??
    found.time;
  return kept !== undefined || found.weekdays || found.all || found.any || found.is === false
    ? { not: found }
    : { ...found, is: false };
}

/**
 * Parted where the word stands between two conditions: not in brackets or quotation marks, and not the "and"
 * of "between 3 and 5".
 */
function parted(text: string, word: 'and' | 'or'): string[] {
  const parts: string[] = [];
  let from = 0;
  for (const at of openPlaces(text)) {
    const found = new RegExp(`^\\s+${word}\\s+`, 'i').exec(text.slice(at));
    if (!found || at < from) continue;
    const before = text.slice(from, at);
    if (word === 'and' && /\bbetween\s+(?:"(?:[^"\\]|\\.)*"|\S+)$/i.test(before)) continue;
    parts.push(before);
    from = at + found[0].length;
  }
  return [...parts, text.slice(from)];
}

/** Places outside of brackets and quotation marks at which white space begins. */
function openPlaces(text: string): number[] {
  const places: number[] = [];
  let depth = 0;
  let quoted = false;
  for (let at = 0; at < text.length; at++) {
    const letter = text[at]!;
    if (quoted && letter === '\\') at++;
    else if (letter === '"') quoted = !quoted;
    else if (quoted) continue;
    else if (letter === '(') depth++;
    else if (letter === ')') depth--;
    else if (depth === 0 && /\s/.test(letter) && !/\s/.test(text[at - 1] ?? '')) places.push(at);
  }
  return places;
}

/** What stands in the brackets around the whole text; null when there are none. */
function withinBrackets(text: string): string | null {
  if (!text.startsWith('(') || !text.endsWith(')')) return null;
  let depth = 0;
  let quoted = false;
  for (let at = 0; at < text.length; at++) {
    if (quoted && text[at] === '\\') at++;
    else if (text[at] === '"') quoted = !quoted;
    else if (!quoted && text[at] === '(') depth++;
    else if (!quoted && text[at] === ')' && --depth === 0 && at < text.length - 1) return null;
  }
  return depth === 0 ? text.slice(1, -1) : null;
}

/** Sentences with an "and" or "or" of their own. */
function readStrict(text: string): Condition | null {
  const on = /^on\s+(?!the\s)(.+)$/i.exec(text)?.[1];
  const channels = on?.split(/\s*,\s*|\s+or\s+/i).map(readChannel);
  if (channels?.every((each) => each !== null)) return { channels: channels as ChannelKind[] };
  const between = /^it is between\s+(\S+)\s+and\s+(\S+)$/i.exec(text);
  const [from, to] = between ? [readTimeOfDay(between[1]!), readTimeOfDay(between[2]!)] : [null, null];
  if (from && to) return { time: { from, to } };
  const days = /^it is\s+(.+)$/i
    .exec(text)?.[1]
    ?.split(/\s*,\s*|\s+or\s+/i)
    .map((day) => WEEKDAYS.find((each) => each === day.toLowerCase()));
  return days?.every((day): day is Weekday => day !== undefined) ? { weekdays: days } : null;
}

function readPlain(text: string): Condition | null {
  if (/^(it is )?open$/i.test(text)) return { open: true };
  if (/^(it is )?(closed|shut)$/i.test(text)) return { open: false };
  const after = (pattern: string) => new RegExp(`^(?:${pattern})\\s+(.+)$`, 'is').exec(text)?.[1]?.trim();
  const tag = after('tagged|tag|has tag');
  if (tag) return { tag: unquoted(tag) };
  const list = after('(?:in|on)?\\s*(?:the\\s+)?list');
  if (list) return { list: unquoted(list) };
  const segment = after('(?:in\\s+)?(?:the\\s+)?segment');
  if (segment) return { segment: unquoted(segment) };
  const line = after('on the line');
  if (line) return { line };
  const cue = after('came by(?: the cue)?');
  if (cue) return { cue };
  const language = /^(?:speaks|language(?:\s+is)?)\s+([a-z]{2})$/i.exec(text)?.[1];
  if (language) return { language: language.toLowerCase() };
  const known = /^(.+?)\s+is\s+(known|unknown|not known)$/is.exec(text);
  if (known?.[1])
    return { field: fieldKey(known[1]), is: known[2]!.toLowerCase() === 'known' ? 'known' : 'unknown' };
  return readOfPerson(text, after) ?? readComparison(text);
}

function readOfPerson(text: string, after: (pattern: string) => string | undefined): Condition | null {
  if (/^opted in$/i.test(text)) return { optedIn: 'any' };
  if (/^opted out$/i.test(text)) return { optedOut: 'any' };
  for (const [subject, pattern] of [
    ['reach', 'reachable on'],
    ['optedIn', 'opted in (?:on|to)'],
    ['optedOut', 'opted out (?:of|on)'],
  ] as const) {
    const which = after(pattern)?.replace(/^the line\s+/i, '');
    if (which)
      return {
        [subject]: /^any(\s+line)?$/i.test(which) ? 'any' : (readChannel(which) ?? which.toLowerCase()),
      };
  }
  for (const [subject, pattern] of [
    ['seen', 'seen in the last'],
    ['met', '(?:first met|new|met) in the last'],
  ] as const) {
    const time = readDuration(after(pattern) ?? '');
    if (time) return { [subject]: time };
  }
  for (const subject of ['entered', 'finished'] as const) {
    const words = after(`(?:has\\s+)?${subject}`);
    if (!words) continue;
    const [, loop = words, time] = /^(.+?)\s+in the last\s+([^"]+)$/is.exec(words) ?? [];
    const within = time === undefined ? null : readDuration(time);
    if (time === undefined) return { [subject]: unquoted(words) };
    return within ? { [subject]: unquoted(loop), within } : null;
  }
  for (const [subject, pattern] of [
    ['underWay', '(?:is\\s+)?under way in'],
    ['left', '(?:has\\s+)?left'],
  ] as const) {
    const words = after(pattern);
    if (!words) continue;
    const [, loop = words, scene] = /^(.+?)\s+at scene\s+([^\s"]+)$/is.exec(words) ?? [];
    return { [subject]: { loop: unquoted(loop), ...(scene && { scene }) } };
  }
  const heard = /^came into\s+(.+)\s+by\s+([^\s"]+)$/is.exec(text);
  if (heard) return { heard: { loop: unquoted(heard[1]!), cue: heard[2]! } };
  const source = after('came from');
  return source ? { source: unquoted(source) } : null;
}

function readComparison(text: string): Condition | null {
  for (const [words, is] of COMPARED) {
    const pattern = /^[<>=!]/.test(words)
      ? `^([^"]+?)\\s*${words}\\s*(.*)$`
      : `^([^"]+?)\\s+${words}(?:\\s+(.*))?$`;
    const [, field, written = ''] = new RegExp(pattern, 'is').exec(text) ?? [];
    if (field === undefined) continue;
    const subject = { field: fieldKey(field) };
    const value = written.trim();
    if (value === '') return null;
    if (is === 'in the next' || is === 'in the last' || is === 'changed in the last') {
      const time = readDuration(value);
      return time ? { ...subject, is, value: time } : null;
    }
    if (is === 'between') {
      const [, low, high] = /^("(?:[^"\\]|\\.)*"|.+?)\s+and\s+(.+)$/is.exec(value) ?? [];
      const to = high === undefined ? undefined : valueOf(high.trim());
      return low === undefined || to === undefined || typeof to === 'boolean'
        ? null
        : { ...subject, is, value: valueOf(low), to };
    }
    return { ...subject, is, value: valueOf(value) };
  }
  return null;
}

function readChannel(words: string): ChannelKind | null {
  const said = words.trim().toLowerCase();
  return (
    CHANNEL_KINDS.find(
      (kind) =>
        kind === said ||
        CHANNEL_NAMES[kind].mark.toLowerCase() === said ||
        CHANNEL_NAMES[kind].name.toLowerCase() === said,
    ) ?? null
  );
}

const valueOf = (text: string): string | number | boolean =>
  /^-?\d{1,15}(\.\d{1,9})?$/.test(text)
    ? Number(text)
    : /^(yes|true)$/i.test(text)
      ? true
      : /^(no|false)$/i.test(text)
        ? false
        : unquoted(text);

/** What stands in quotation marks, straight or curly; anything else as it is. */
function unquoted(text: string): string {
  const straight = /^"((?:[^"\\]|\\.)*)"$/s.exec(text)?.[1];
  return straight?.replace(/\\(.)/g, '$1') ?? text.replace(/^“(.*)”$/s, '$1');
}
