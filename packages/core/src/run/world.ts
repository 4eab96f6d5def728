import type { CueIndex } from '../match/cueIndex';
import type { ClientFacts, LineFacts } from '../model/client';
import type { LoopVersion } from '../model/loop';
import type { FieldTypes, PersonFacts } from '../model/person';
import { zoneOfNumber } from '../time/zoneOfNumber';
import { isZone } from '../time/zones';
import type { Run } from './run';
import type { Standing } from './standing';

/** A conversation of the same person on another line. */
export interface Beside {
  conversationId: string;
  line: LineFacts;
  standing: Standing;
}

/** Everything an answer may depend on. Time, ids and data come in as values: the same world gives the same answer. */
export interface World {
  /** Milliseconds since 1970, UTC. */
  now: number;
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
  /** The id that a run gets if this event starts one: a UUID. Further ones are counted on from it. */
  newRunId: string;
  /** Counts events up, so that wordings can be drawn in turn. */
  count?: number;
  /** Whether this event has been decided before. */
  repeated?: boolean;
}

/** Loops that start each other without the person. */
export const MOST_DEPTH = 5;
/** Loops started in one conversation within an hour without the person. */
export const MOST_STARTS = 20;
/** The person's language: a field of theirs, what the channel says where the client speaks it, else the client's first. */
export function languageOf(person: PersonFacts, client: ClientFacts): string {
  const own = person.fields.language;
  if (own && typeof own.value === 'string' && /^[a-z]{2}$/i.test(own.value)) return own.value.toLowerCase();
  const said = person.language?.slice(0, 2).toLowerCase();
  return said && (client.languages.includes(said) || client.languages.length === 0) ? said : (client.languages[0] ?? 'en');
}

/** The person's time zone: the field `time_zone`, else that of their telephone number, else the client's. */
export function zoneOf(person: PersonFacts, client: ClientFacts, number: string | null): string {
  const own = person.fields.time_zone;
  return own && typeof own.value === 'string' && isZone(own.value)
    ? own.value
    : ((number && zoneOfNumber(number, client.timeZone)) ?? client.timeZone);
}
