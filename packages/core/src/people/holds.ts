import { isBetween, isDate, isTimeOfDay } from '../time/clockTime';
import { addDays, localTime } from '../time/zones';
import { isOpen } from '../time/openings';
import { fold } from '../language/fold';
import { durationMs } from '../loops/model/basics';
import type { ClientFacts, LineFacts } from './client';
import type { Condition } from './condition';
import { knownLanguageOf, valueWords, type PersonFacts, type Value } from './person';

/** What a condition may look at. */
export interface ConditionWorld {
  now: number;
  zone: string;
  client: ClientFacts;
  line: LineFacts;
  person: PersonFacts;
  cueId: string;
  answers: Record<string, Value>;
  /** Saved segments by their folded names, and ids of the client's loops by theirs. */
  segments?: Readonly<Record<string, Condition>>;
  loopIds?: Readonly<Record<string, string>>;
}

/** Whether a condition holds: true, false, or null when what it is about is not known. Unknown is neither. */
export function holds(condition: Condition, world: ConditionWorld): boolean | null {
  return judge(condition, world, []);
}

/**
 * Whether a person belongs to a segment now. Days are the client's, so that everybody is asked about the same
 * ones.
 */
export function isInSegment(rule: Condition, about: SegmentWorld): boolean {
  return judge(rule, segmentWorld(about), []) === true;
}

/** What a segment may look at: the person, not the conversation they are in. */
export type SegmentWorld = Pick<ConditionWorld, 'now' | 'client' | 'person' | 'segments' | 'loopIds'>;

const segmentWorld = ({ now, client, person, segments, loopIds }: SegmentWorld): ConditionWorld => ({
  now,
  client,
  person,
  segments,
  loopIds,
  zone: client.timeZone,
  line: { key: '', name: '', channel: 'sms' },
  cueId: '',
  answers: {},
});

/** `within`: segments that are being asked already, so that two that name each other come to an end. */
function judge(condition: Condition, world: ConditionWorld, within: readonly string[]): boolean | null {
  if (condition.all) return every(condition.all.map((each) => judge(each, world, within)));
  if (condition.any) return not(every(condition.any.map((each) => not(judge(each, world, within)))));
  if (condition.not) return not(judge(condition.not, world, within));
  const wanted = condition.is !== false;
  const { person } = world;
  if (condition.segment !== undefined) {
    const name = fold(condition.segment);
    const rule = world.segments?.[name];
    if (!rule || within.includes(name)) return null;
    const found = judge(rule, segmentWorld(world), [...within, name]) === true;
    return found === wanted;
  }
  if (condition.tag !== undefined) return person.tags.includes(condition.tag) === wanted;
  if (condition.list !== undefined) return person.lists.includes(condition.list) === wanted;
  if (condition.reach !== undefined) return tiesTo(person, condition.reach).length > 0 === wanted;
  if (condition.optedIn !== undefined)
    return tiesTo(person, condition.optedIn).some((tie) => tie.optedIn) === wanted;
  if (condition.optedOut !== undefined)
    return tiesTo(person, condition.optedOut).some((tie) => tie.optedOut) === wanted;
  if (condition.source !== undefined)
    return (person.source !== null && fold(person.source) === fold(condition.source)) === wanted;
  if (condition.seen !== undefined) return person.seen > world.now - durationMs(condition.seen) === wanted;
  if (condition.met !== undefined) return person.met > world.now - durationMs(condition.met) === wanted;
  const through = throughLoop(condition, world);
  if (through !== null) return through === wanted;
  if (condition.channels) return condition.channels.includes(world.line.channel);
  if (condition.line !== undefined) return world.line.key === condition.line;
  if (condition.cue !== undefined) return world.cueId === condition.cue;
  if (condition.language !== undefined) {
    const known = knownLanguageOf(person, world.client);
    return known === null ? null : known === condition.language;
  }
  const local = localTime(world.now, world.zone);
  if (condition.time) return isBetween(local.time, condition.time.from, condition.time.to);
  if (condition.weekdays) return condition.weekdays.includes(local.weekday);
  if (condition.open !== undefined)
    return isOpen(world.client.openingHours, world.now, world.client.timeZone) === condition.open;
  const value =
    (condition.field !== undefined
      ? world.person.fields[condition.field]
      : world.answers[condition.answer!]) ?? null;
  if (condition.is === 'changed in the last') {
    const at = world.person.changed[condition.field ?? ''];
    return at !== undefined && at > world.now - durationMs(String(condition.value));
  }
  return compare(value, condition, local.date);
}

/** A person's lines by a key, a channel, or all of them. */
const tiesTo = ({ ties }: PersonFacts, which: string) =>
  ties.filter((tie) => which === 'any' || tie.key === which || tie.channel === which);

/** What a condition says of a person's way through a loop; null when it is about something else. */
function throughLoop(condition: Condition, { person, now, loopIds }: ConditionWorld): boolean | null {
  const { entered, finished, underWay, left, heard, within } = condition;
  const name = entered ?? finished ?? underWay?.loop ?? left?.loop ?? heard?.loop;
  if (name === undefined) return null;
  const id = loopIds?.[fold(name)];
  const passage = id === undefined ? undefined : person.history[id];
  if (!passage) return false;
  const since = within === undefined ? -Infinity : now - durationMs(within);
  if (entered !== undefined) return passage.started > since;
  if (finished !== undefined) return passage.finished !== null && passage.finished > since;
  if (heard) return passage.cues[heard.cue] !== undefined;
  const { stands } = passage;
  const there = (scene: string | undefined) => scene === undefined || stands?.scene === scene;
  if (underWay) return stands?.underWay === true && there(underWay.scene);
  const over = passage.finished !== null && passage.finished >= passage.started;
  return !over && stands !== undefined && !stands.underWay && there(left!.scene);
}

const not = (value: boolean | null) => (value === null ? null : !value);
const every = (values: (boolean | null)[]) =>
  values.includes(false) ? false : values.includes(null) ? null : true;

/**
 * A day as a condition names it, for somebody whose day is `today`: "today+7d" as YYYY-MM-DD; anything else
 * as it is.
 */
export function moment(words: string, today: string): string {
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
    const fits = (words: string) => (value.type === 'date' ? isDate(words) : isTimeOfDay(words));
    if (is !== 'in the next' && is !== 'in the last' && !fits(theirs)) return null;
    if (is === 'between' && !fits(moment(String(to), today))) return null;
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
    const theirs =
      operand === true || operand === 'yes' ? true : operand === false || operand === 'no' ? false : null;
    if (theirs === null || (is !== 'equal' && is !== 'not equal')) return null;
    return (value.value === theirs) === (is === 'equal');
  }
  const theirs = comparable(value.type, String(operand));
  const parts = value.type === 'several of' ? value.value.map((part) => comparable('text', part)) : null;
  const mine = comparable(value.type, valueWords(value));
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

/** Letters of a text that are compared; what comes after them is not. */
const MOST_COMPARED = 400;

/** A text as it is compared: folded, a phone number by its digits. */
export const comparable = (type: Value['type'], text: string): string =>
  (type === 'phone' ? text.replace(/\D/g, '') : fold(text)).slice(0, MOST_COMPARED);

const days = (operand: string | number | boolean) => Math.floor(durationMs(String(operand)) / 86_400_000);
