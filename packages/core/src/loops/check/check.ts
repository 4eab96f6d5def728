import { calendarsByName, withNothingTaken, type CalendarFacts } from '../../booking/calendar';
import type { Brief, ClientFacts, LineFacts } from '../../people/client';
import type { Condition } from '../../people/condition';
import type { ListFacts } from '../../people/list';
import type { Loop, StepPlace } from '../model/loop';
import type { FieldTypes, PersonFacts } from '../../people/person';
import type { HolidayTable } from '../../time/holidayTable';
import { DEFAULT_LIMITS, type Limits } from './limits';
import { fieldsOf } from './fieldsOf';
import { invented, landings, type Landing } from '../../engine/rehearsal/landing';
import { waysOn, type Way } from './ways';
import type { LoopEdit } from '../edit/loopEdit';

/** A line as checks need it. */
export type KnownLine = Pick<LineFacts, 'key' | 'channel' | 'templates'> & { name?: string };

/** A destination as checks need it; `failure`: why what went there last did not arrive. */
export interface KnownDestination {
  name: string;
  before: string[];
  state: 'off' | 'on' | 'paused';
  failure: string | null;
  /** A file, which goes out as a whole: no step sends one person there. */
  isWhole?: boolean;
}

/** What surrounds a loop; what is left out is not known, as for a file on its own. */
export interface Surroundings {
  /** The client's fields with their types. */
  types?: FieldTypes;
  lines?: KnownLine[];
  /** The client's saved segments by their folded names. */
  segments?: Record<string, Condition>;
  /** The client's lists, the same way. */
  lists?: Record<string, ListFacts>;
  /** The client's brief, where its privacy link stands. */
  brief?: Brief;
  /** The client's files: their addresses by their names. */
  files?: Readonly<Record<string, string>>;
  /** The client's other loops. */
  others?: Loop[];
  /** Names of those of them that start nobody: paused, stopped or never published. */
  resting?: string[];
  /** The client's destinations, with the names that they had before. */
  destinations?: KnownDestination[];
  /** Whether the client has any sources that its questions can be answered from. */
  hasSources?: boolean;
  /** How the client's question sheet stands, where loops that answer wait for it. */
  sheet?: { unexpected: number; isStale: boolean } | null;
  /** The client's calendars, with what is taken of them. */
  calendars?: CalendarFacts[];
  /** The days with a name of their own in the client's country. */
  holidays?: HolidayTable;
  /** Addresses outside that did not take what was sent to them last, with the reason. */
  failing?: Record<string, string>;
  client?: Pick<ClientFacts, 'name' | 'country' | 'currency' | 'timeZone' | 'languages' | 'openingHours'>;
  limits?: Limits;
  /** Whom the texts are looked at with; else somebody invented. */
  person?: PersonFacts;
}

/** The client as a loop meets it; what is not known is as it is for most. */
export const clientOf = ({ client, brief = {}, files }: Surroundings): ClientFacts => ({
  name: 'The client',
  country: 'GB',
  timeZone: 'UTC',
  languages: ['en'],
  openingHours: {},
  ...client,
  brief,
  ...(files && { files }),
});

/** The place a finding is about; what is null is not said. */
export interface Place {
  sceneId: string | null;
  stepId: string | null;
  cueId: string | null;
}
export const NOWHERE: Place = { sceneId: null, stepId: null, cueId: null };

/**
 * `stops` stands in the way of publishing; `warns` is risky, and can be accepted with a reason; `notes` is
 * good to know.
 */
export type Severity = 'stops' | 'warns' | 'notes';

/** What takes a finding away in one tap, where that is safe. Plain data, so that it travels from a worker. */
export interface Fix {
  words: string;
  edits: LoopEdit[];
}

export interface Found<Code extends string = string> extends Partial<Place> {
  code: Code;
  severity: Severity;
  /** What of the place it is about: a label, a keyword, a field. Tells two findings of one place apart. */
  about?: string;
  /** One sentence that says what is wrong and what is expected. */
  reason: string;
  fix?: Fix;
}

/** A step with how a sentence names its place: "scene 3 (Place)". */
export interface Placed extends StepPlace {
  where: string;
  at: { sceneId: string; stepId: string };
}

/**
 * What checks look at. Made once per run of the checks; what takes time is worked out when it is first asked
 * for.
 */
export class CheckWorld {
  readonly places: readonly Placed[];
  /** The lines that the loop speaks on; empty where they are not known. */
  readonly lines: readonly KnownLine[];
  readonly limits: Limits;
  readonly #ways = new Map<string, Way[]>();
  readonly #landings = new Map<string, Landing[]>();
  readonly #person: PersonFacts;
  readonly #types: FieldTypes;
  readonly #client: ClientFacts;

  constructor(
    readonly loop: Loop,
    readonly known: Surroundings,
  ) {
    this.places = loop.scenes.flatMap((scene, sceneIndex) =>
      scene.steps.map((step, stepIndex) => ({
        scene,
        sceneIndex,
        step,
        stepIndex,
        where: whereWords(loop, scene.id),
        at: { sceneId: scene.id, stepId: step.id },
      })),
    );
    this.lines = (known.lines ?? []).filter(
      (line) => loop.lines.length === 0 || loop.lines.includes(line.key),
    );
    this.limits = known.limits ?? DEFAULT_LIMITS;
    this.#types = { ...fieldsOf(loop), ...known.types };
    this.#client = clientOf(known);
    const made = invented(loop, this.#types, this.#client, LOOKED_AT);
    const { person } = known;
    this.#person = person ? { ...person, fields: { ...made.fields, ...person.fields } } : made;
  }

  ways(place: StepPlace): Way[] {
    let ways = this.#ways.get(place.step.id);
    if (!ways) this.#ways.set(place.step.id, (ways = waysOn(this.loop, place)));
    return ways;
  }

  /** What a step says on a line, with merge fields filled from somebody invented. */
  landings(place: StepPlace, line: KnownLine): Landing[] {
    const key = `${place.step.id}|${line.channel}`;
    let landed = this.#landings.get(key);
    if (!landed) {
      const calendars = calendarsByName(withNothingTaken(this.known.calendars ?? []));
      const setting = {
        client: this.#client,
        person: this.#person,
        fields: this.#types,
        now: LOOKED_AT,
        calendars,
      };
      landed = landings(this.loop, place, { ...line, name: line.name ?? line.key }, setting);
      this.#landings.set(key, landed);
    }
    return landed;
  }

  /** One line of each channel that the loop speaks on. */
  get channels(): KnownLine[] {
    return this.lines.filter(
      (line, at) => this.lines.findIndex((other) => other.channel === line.channel) === at,
    );
  }
}

/** A Tuesday, ten in the morning. */
const LOOKED_AT = Date.UTC(2026, 10, 24, 10);

export function whereWords(loop: Pick<Loop, 'scenes'>, sceneId: string): string {
  const index = loop.scenes.findIndex((scene) => scene.id === sceneId);
  return index < 0 ? 'the loop' : `scene ${index + 1} (${loop.scenes[index]!.name})`;
}

/**
 * One check: what it finds, each with its place and reason. Pure. A new check is one file with a `Check` and
 * its line in the index.
 */
export interface Check<Code extends string> {
  find(world: CheckWorld): Iterable<Found<Code>>;
}

export const check = <Code extends string>(
  find: (world: CheckWorld) => Iterable<Found<Code>>,
): Check<Code> => ({ find });

export const shorten = (text: string, most = 40) =>
  text.length > most ? `${text.slice(0, most - 1)}…` : text;
