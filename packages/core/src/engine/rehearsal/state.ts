import type { Booked, CalendarFacts } from '../../booking/calendar';
import type { Outgoing } from '../../channels';
import type { Said } from '../../channels/said';
import type { Via } from '../../consent/permission';
import type { LoopVersion } from '../../loops/model/loop';
import type { ClientFacts, LineFacts } from '../../people/client';
import type { Condition } from '../../people/condition';
import type { ListFacts } from '../../people/list';
import type { FieldTypes, PersonFacts } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import type { Response } from '../decide';
import { indexCues } from '../decide/cueIndex';
import type { ChoiceRef } from '../run/choiceRef';
import type { Run } from '../run/run';
import type { Standing } from '../run/standing';
import type { Effect, Errand } from '../steps';

/** One line of what happened, as it is read. `at` in ms. */
export type RehearsalEntry =
  | { at: number; from: 'them'; text: string }
  | {
      at: number;
      from: 'us';
      text: string;
      choices: string[];
      parts: number | null;
      by: string | null;
      via: Via['kind'] | null;
    }
  | { at: number; from: 'stage'; text: string; reason: string }
  /** What would have gone elsewhere, been held back, or not arrived. */
  | { at: number; from: 'outside'; text: string; reason: string };

/** A button or lettered line that the person sees. */
export interface Offered {
  ref: ChoiceRef;
  /** The whole label. */
  label: string;
  /** The label as the channel shows it. */
  shown: string;
  /** What brings it where nothing can be tapped. */
  typed: string;
}

/** A message that waits until the person writes. */
export interface HeldBack {
  runId: string | null;
  said: Said;
  body: Outgoing;
  by: string | null;
}

/** A conversation that is played without anything leaving. Plain data; {@link play} gives the next one. */
export interface Rehearsal {
  readonly now: number;
  readonly client: ClientFacts;
  readonly line: LineFacts;
  readonly fields: FieldTypes;
  readonly segments?: Readonly<Record<string, Condition>>;
  readonly lists?: Readonly<Record<string, ListFacts>>;
  readonly holidays?: HolidayTable;
  readonly versions: readonly LoopVersion[];
  /**
   * The client's calendars by their folded names, with what the rehearsal itself has booked; and what of that
   * is the person's.
   */
  readonly calendars: Readonly<Record<string, CalendarFacts>>;
  readonly booked: readonly Booked[];
  readonly person: PersonFacts;
  readonly standing: Standing;
  /** All runs, also those that are over. */
  readonly runs: readonly Run[];
  readonly timers: Readonly<Record<string, Extract<Effect, { kind: 'timer' }>>>;
  /** Sent out and not answered yet. */
  readonly errands: readonly Errand[];
  /** The choices of our last message that had any. */
  readonly offered: readonly Offered[];
  /** Those of earlier messages, the newest last: buttons that still stand there. */
  readonly offeredBefore: readonly Offered[];
  /** Held back until the person writes. */
  readonly heldBack: readonly HeldBack[];
  /** Whether the channel refuses what is said now: nothing of it arrives. */
  readonly refuses: boolean;
  readonly shelf: Response['shelf'];
  /** Ids of the events that were decided. */
  readonly decided: readonly string[];
  readonly events: number;
}

/** The cues of versions, looked up once for as long as they are the same. */
const indices = new WeakMap<readonly LoopVersion[], ReturnType<typeof indexCues>>();
export function indexOf(versions: readonly LoopVersion[]) {
  let index = indices.get(versions);
  if (!index) indices.set(versions, (index = indexCues(versions)));
  return index;
}
