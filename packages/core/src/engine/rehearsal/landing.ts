import type { CalendarFacts } from '../../booking/calendar';
import { CHANNELS, type Outgoing } from '../../channels';
import { priceOf, PRICES, type Prices } from '../../meter/prices';
import { indexCues } from '../decide/cueIndex';
import type { ClientFacts, LineFacts } from '../../people/client';
import type { Loop, LoopVersion, StepPlace } from '../../loops/model/loop';
import { stranger, type FieldTypes, type PersonFacts, type Value } from '../../people/person';
import { newRun } from '../run/run';
import { StepPlay } from '../run/stepPlay';
import type { Said } from '../../channels/said';
import { kindOf, questionsOf } from '../steps';
import { fold } from '../../language/fold';
import { newStanding } from '../run/standing';
import { Turn } from '../run/turn';
import { READERS, readReply } from '../../language/replies';

const NINE_TO_FIVE = [{ from: '09:00', to: '17:00' }];

/** Where a step is looked at without a conversation: for whom, and when (ms). */
export interface Setting {
  client: ClientFacts;
  person: PersonFacts;
  fields: FieldTypes;
  now: number;
  /** The client's calendars by their folded names. */
  calendars?: Readonly<Record<string, CalendarFacts>>;
}

/** What a book is looked at with where its calendar is not there yet. */
const SAMPLE_CALENDAR: CalendarFacts = {
  id: 'sample',
  calendar: {
    name: 'Sample',
    hours: {
      monday: NINE_TO_FIVE,
      tuesday: NINE_TO_FIVE,
      wednesday: NINE_TO_FIVE,
      thursday: NINE_TO_FIVE,
      friday: NINE_TO_FIVE,
    },
    length: '1h',
    ahead: '14d',
    places: 1,
  },
  taken: [],
};

/** What a step says on one line, as it would be sent there. */
export interface Landing {
  said: Said;
  messages: Outgoing[];
  /** In thousandths of a pound. */
  price: number;
}

const RUN = '00000000-0000-7000-8000-000000000000';
const NO_CUES = indexCues([]);

/**
 * What a step says when it is reached, on a line whose window is open. It is played by the engine itself,
 * alone. `first`: nothing was said before it, so the first SMS says who writes and how to stop.
 */
export function landings(
  loop: Loop,
  { step }: StepPlace,
  line: LineFacts,
  setting: Setting,
  first = false,
  prices: Prices = PRICES,
): Landing[] {
  const version: LoopVersion = { loopId: 'loop', version: 1, loop };
  const run = newRun(RUN, version.loopId, version.version, '', null, 0);
  // A question is looked at as it is asked, not as it is passed over.
  const fields =
    step.kind === 'ask' && step.known
      ? Object.fromEntries(
          Object.entries(setting.person.fields).filter(
            ([key]) => !questionsOf(step).some(({ field }) => field === key),
          ),
        )
      : setting.person.fields;
  const turn = new Turn({
    ...setting,
    // As of somebody who is in the loop: a step may remember something of them.
    person: {
      ...setting.person,
      fields,
      history: { [version.loopId]: { started: setting.now, finished: null, cues: {} } },
    },
    calendars:
      step.kind === 'book' ? { [fold(step.calendar)]: SAMPLE_CALENDAR, ...setting.calendars } : undefined,
    line,
    standing: {
      ...newStanding(),
      heardFrom: true,
      lastHeardAt: setting.now,
      optedIn: true,
      introduced: !first,
    },
    runs: [run],
    tappedRun: null,
    cues: NO_CUES,
    version: () => version,
    liveLoop: () => null,
    newRunId: RUN,
  });
  kindOf(step).enter(step, new StepPlay(turn, run.id, version, step.id));
  return turn.effects.flatMap((effect) => {
    if (effect.kind !== 'send') return [];
    const messages = CHANNELS[line.channel].render(effect.said);
    return [
      {
        said: effect.said,
        messages,
        price: messages.reduce((sum, message) => sum + priceOf(message, prices), 0),
      },
    ];
  });
}

/**
 * Somebody invented, of whom everything is known that the loop asks for: what merge fields are filled with
 * for a look.
 */
export function invented(
  loop: Loop,
  types: FieldTypes,
  client: Pick<ClientFacts, 'country' | 'timeZone'>,
  now: number,
): PersonFacts {
  const steps = loop.scenes.flatMap((scene) => scene.steps);
  const optionOf = (key: string) =>
    steps
      .flatMap((step) => (step.kind === 'ask' ? questionsOf(step) : []))
      .flatMap(({ field, options = [] }) => (field === key ? options : []))[0]?.label;
  const fields: Record<string, Value> = {};
  for (const [key, type] of Object.entries(types)) {
    const option = optionOf(key);
    if (type === 'one of' || type === 'several of') {
      if (option !== undefined)
        fields[key] = type === 'one of' ? { type, value: option } : { type, value: [option] };
      continue;
    }
    const reading = readReply(type, READERS[type].example, {
      country: client.country,
      language: 'en',
      now,
      zone: client.timeZone,
      days: 'any',
    });
    if (reading.ok) fields[key] = reading.value;
  }
  return { ...stranger('invented'), firstName: 'Robin', lastName: 'Vale', fields };
}
