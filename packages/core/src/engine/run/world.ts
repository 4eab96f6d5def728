import type { Booked, CalendarFacts } from '../../booking/calendar';
import type { CueIndex } from '../decide/cueIndex';
import type { ClientFacts, LineFacts } from '../../people/client';
import type { ListFacts } from '../../people/list';
import type { LoopVersion } from '../../loops/model/loop';
import type { Condition } from '../../people/condition';
import type { FieldTypes, PersonFacts } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import { zoneOfNumber } from '../../time/zoneOfNumber';
import { isZone } from '../../time/clockTime';
import type { Run } from './run';
import type { Standing } from './standing';

/** A conversation of the same person on another line. */
export interface Beside {
  conversationId: string;
  line: LineFacts;
  standing: Standing;
}

/**
 * Everything an answer may depend on. Time, ids and data come in as values: the same world gives the same
 * answer.
 */
export interface World {
  /** Milliseconds since 1970, UTC. */
  now: number;
  /**
   * When the person did what is answered, by the platform's own time in ms; now, where it is left out. Never
   * later than now.
   */
  at?: number;
  client: ClientFacts;
  line: LineFacts;
  fields: FieldTypes;
  person: PersonFacts;
  /** The telephone number that the person writes from, where the channel has one. */
  number?: string | null;
  /** The person's conversations on the client's other lines. */
  beside?: Beside[];
  standing: Standing;
  /** The conversation's runs under way, the newest last. */
  runs: Run[];
  /** For a tap: the run its button was offered in, when that is not one under way. */
  tappedRun: Run | null;
  cues: CueIndex;
  version(loopId: string, version: number): LoopVersion | null;
  /** The live version of the client's loop of that name (case does not matter); null when there is none. */
  liveLoop(name: string): LoopVersion | null;
  /** The client's saved segments, and the ids of all its loops, by folded names. */
  segments?: Readonly<Record<string, Condition>>;
  loopIds?: Readonly<Record<string, string>>;
  /** The client's lists by their folded names. */
  lists?: Readonly<Record<string, ListFacts>>;
  /** The days with a name of their own in the client's country. */
  holidays?: () => HolidayTable;
  /** The client's calendars by their folded names, and what the person has booked that is still to come. */
  calendars?: Readonly<Record<string, CalendarFacts>>;
  booked?: readonly Booked[];
  /** The id that a run gets if this event starts one: a UUID. Further ones are counted on from it. */
  newRunId: string;
  /** How many comments under the same post were answered in public already. */
  answeredUnder?: number;
  /** Whether this event has been decided before. */
  repeated?: boolean;
}

/** Loops that start each other without the person. */
export const MOST_DEPTH = 5;
/** Loops started in one conversation within an hour without the person. */
export const MOST_STARTS = 20;
/** The person's time zone: the field `time_zone`, else that of their telephone number, else the client's. */
export function zoneOf(person: PersonFacts, client: ClientFacts, number: string | null): string {
  const own = person.fields.time_zone;
  return own && typeof own.value === 'string' && isZone(own.value)
    ? own.value
    : ((number && zoneOfNumber(number, client.timeZone)) ?? client.timeZone);
}
