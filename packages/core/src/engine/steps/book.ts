import { z } from 'zod';
import type { CalendarFacts } from '../../booking/calendar';
import { freeTimes, timesToOffer, type BookingWorld, type FreeTime } from '../../booking/freeTimes';
import { wishedTimes } from '../../booking/wishedTimes';
import {
  CalendarName,
  END,
  FieldKey,
  LocalId,
  NEXT,
  Target,
  waitingExits,
  waitingParts,
  waitingTexts,
} from '../../loops/model/basics';
import { LanguageCode } from '../../people/client';
import { localTime, momentWords } from '../../time/zones';
import { saysCannotCome } from '../../language/answers';
import { readChoice } from '../../language/choice';
import { fold } from '../../language/fold';
import { phrases } from '../../language/phrases';
import {
  go,
  readingWorld,
  type Aside,
  type Outcome,
  type Play,
  type StepKind,
  type StepReading,
  type StepWorld,
} from './step';

const Text = z
  .string()
  .trim()
  .min(1, 'a book needs its question')
  .max(4_096, 'a text has at most 4,096 characters');
/** Times that are offered where the step does not say how many. */
const OFFERED = 6;

/**
 * Offers free times of a calendar, reads the one that is chosen or named ("Thursday afternoon"), and takes it
 * for the person: whoever has booked there already moves. The day and the time are stored in fields, so that
 * everything else can go by them.
 */
export const Book = z
  .object({
    id: LocalId,
    kind: z.literal('book'),
    calendar: CalendarName,
    text: Text,
    day: FieldKey,
    time: FieldKey,
    /** How many times are offered at once. */
    offer: z
      .number()
      .int()
      .min(1, 'a book offers at least one time')
      .max(10, 'a book offers at most 10 times')
      .optional(),
    /** The exit for when nothing is free. */
    full: Target.optional(),
    /** The same in other languages. */
    variants: z
      .record(
        LanguageCode,
        z.object({ text: Text.optional(), retry: z.string().min(1).max(4_096).optional() }).strict(),
      )
      .optional(),
    ...waitingParts,
  })
  .strict()
  .refine((step) => step.day !== step.time, {
    message: 'the day and the time are stored in two fields',
    path: ['time'],
  });
export type Book = z.infer<typeof Book>;

const calendarOf = (step: Book, { calendars }: StepWorld): CalendarFacts | undefined =>
  calendars?.[fold(step.calendar)];
const bookingWorld = ({ now, client }: StepWorld): BookingWorld => ({
  now,
  zone: client.timeZone,
  daysOff: client.openingHours.daysOff,
});
const ownIn = ({ id }: CalendarFacts, { booked = [] }: StepWorld) =>
  booked.find((each) => each.calendarId === id);

/** A choice's id holds its time, so that a button of long ago still means the time that stood on it. */
const choiceId = (from: number) => `t${Math.round(from / 60_000).toString(36)}`;
const timeOfChoice = (id: string) => parseInt(id.slice(1), 36) * 60_000;

const choicesFor = (times: readonly number[], { client, language }: StepWorld) =>
  times.map((from) => ({ id: choiceId(from), label: momentWords(from, client.timeZone, language) }));

function freeIn(calendar: CalendarFacts, world: StepWorld): FreeTime[] {
  return freeTimes(calendar, bookingWorld(world), ownIn(calendar, world)?.from ?? null);
}

/** Says which times there are, and waits for one of them; where there are none it leads out. */
function offer(step: Book, calendar: CalendarFacts, text: string, times: number[], play: Play): Outcome {
  if (times.length === 0) return nothingFree(step, play);
  play.note({ code: 'times offered', calendar: calendar.calendar.name, count: times.length, to: '' });
  play.say(text, choicesFor(times, play.world));
  return { kind: 'wait', for: 'reply', aside: { kind: 'times', times } };
}

function nothingFree(step: Book, play: Play): Outcome {
  const to = step.full ?? NEXT;
  play.note({ code: 'times offered', calendar: step.calendar, count: 0, to: play.where(to) });
  return go(to);
}

function take(step: Book, calendar: CalendarFacts, from: number, play: Play): Outcome {
  const { client } = play.world;
  const own = ownIn(calendar, play.world);
  const { name } = calendar.calendar;
  if (own?.from === from) play.note({ code: 'booked already', calendar: name });
  else {
    play.book(calendar, from, { day: step.day, time: step.time });
    play.note({ code: 'booked', calendar: name, from, zone: client.timeZone, moved: own !== undefined });
  }
  const local = localTime(from, client.timeZone);
  for (const [field, value] of [
    [step.day, { type: 'date' as const, value: local.date }],
    [step.time, { type: 'time' as const, value: local.time }],
  ] as const) {
    play.setField(field, value);
    play.answer(field, value);
  }
  return go(NEXT);
}

const cancelOrMove = ({ language }: StepWorld) => {
  const { cancel, move } = phrases(language).cancelOrMove;
  return [
    { id: 'cancel', label: cancel },
    { id: 'move', label: move },
  ];
};

function askCancelOrMove(play: Play): Outcome {
  play.note({ code: 'asked back', what: 'cancel or move' });
  play.say(phrases(play.world.language).cancelOrMove.question, cancelOrMove(play.world));
  return { kind: 'wait', for: 'reply', aside: { kind: 'cancel or move' } };
}

/** They do not come: what they have booked there is cancelled. */
const calledOff = (step: Book, calendar: CalendarFacts): Extract<StepReading, { ok: true }> => ({
  ok: true,
  summary: 'that they do not come',
  take(play) {
    const { client, language } = play.world;
    const own = ownIn(calendar, play.world);
    if (own && play.unbook(calendar)) {
      play.note({
        code: 'booking cancelled',
        calendar: calendar.calendar.name,
        from: own.from,
        zone: client.timeZone,
      });
      for (const field of [step.day, step.time]) play.setField(field, null);
      play.say(phrases(language).cancelOrMove.cancelled);
    }
    const to = step.cancel ?? END;
    play.note({ code: 'called off', to: play.where(to) });
    return go(to);
  },
});

const mostOffered = (step: Book) => step.offer ?? OFFERED;
const offeredIn = (aside: Aside | null) => (aside?.kind === 'times' ? aside.times : []);

export const book: StepKind<Book> = {
  enter(step, play) {
    const calendar = calendarOf(step, play.world);
    if (!calendar) {
      play.note({ code: 'unusable', reason: `the calendar “${step.calendar}” is missing` });
      return nothingFree(step, play);
    }
    const { language } = play.world;
    const times = timesToOffer(freeIn(calendar, play.world), mostOffered(step));
    return offer(step, calendar, step.variants?.[language]?.text ?? step.text, times, play);
  },
  choices: (_step, world, aside) =>
    aside?.kind === 'cancel or move' ? cancelOrMove(world) : choicesFor(offeredIn(aside), world),
  read(step, reply, world, aside) {
    if (reply.kind === 'file' || reply.kind === 'place')
      return { ok: false, reason: `it is a ${reply.kind}, and a time is asked for` };
    const calendar = calendarOf(step, world);
    if (!calendar) return { ok: false, reason: `the calendar “${step.calendar}” is missing` };
    const free = freeIn(calendar, world);
    const words = phrases(world.language);
    const again = (text: string, times: number[], before?: (play: Play) => void) => ({
      ok: true as const,
      summary: 'a wish for a time',
      take: (play: Play) => {
        before?.(play);
        return offer(step, calendar, text, times, play);
      },
    });
    const own = ownIn(calendar, world);
    const chosen = (from: number) =>
      // What they have booked is theirs, though it is too soon to be booked now.
      free.some((each) => each.from === from) || own?.from === from
        ? {
            ok: true as const,
            summary: 'a free time',
            take: (play: Play) => take(step, calendar, from, play),
          }
        : again(words.timeGone, timesToOffer(free, mostOffered(step)), (play) =>
            play.note({ code: 'time gone', from, zone: world.client.timeZone }),
          );
    const freely = () => timesToOffer(free, mostOffered(step));
    if (reply.kind === 'choice' && reply.choiceId === 'move') return again(words.timesFree, freely());
    if (reply.kind === 'choice' && reply.choiceId === 'cancel') return calledOff(step, calendar);
    if (reply.kind === 'choice') return chosen(timeOfChoice(reply.choiceId));
    const wants = aside?.kind === 'cancel or move' ? readChoice(reply.text, cancelOrMove(world)) : null;
    if (wants?.ok)
      return wants.id === 'cancel' ? calledOff(step, calendar) : again(words.timesFree, freely());
    const shown = readChoice(reply.text, choicesFor(offeredIn(aside), world));
    if (shown.ok && shown.how !== 'close to its label' && shown.how !== 'the other one')
      return chosen(timeOfChoice(shown.id));
    if (free.length === 0)
      return { ok: true, summary: 'a wish for a time', take: (play) => nothingFree(step, play) };
    const wish = wishedTimes(reply.text, free, mostOffered(step), {
      ...readingWorld(world),
      zone: world.client.timeZone,
    });
    if (wish.kind === 'unreadable' && saysCannotCome(fold(reply.text)))
      return { ok: true, summary: 'that they cannot come', take: askCancelOrMove };
    if (wish.kind === 'unreadable') return { ok: false, reason: wish.reason };
    if (wish.kind === 'one') return chosen(wish.from);
    return again(wish.near ? words.nearestFree : words.timesFree, wish.times);
  },
  exits: (step) => [
    ...(step.full
      ? [{ kind: 'nothing free' as const, words: 'nothing free', to: step.full, path: ['full'] }]
      : []),
    ...waitingExits(step),
  ],
  fallsTo: (step) => [{ by: 'booked', words: step.full ? 'booked' : 'booked or nothing free' }],
  texts: (step) => [
    step.text,
    ...waitingTexts(step),
    ...Object.values(step.variants ?? {}).flatMap((each) => [each.text ?? '', each.retry ?? '']),
  ],
  words: (step) => `in ${step.calendar}`,
};
