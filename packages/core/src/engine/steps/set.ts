import { z } from 'zod';
import { FieldKey, ListName, LocalId, NEXT, TagName } from '../../loops/model/basics';
import type { FieldType, Value } from '../../people/person';
import { DayMove, moveDay } from '../../time/dayMoves';
import { localTime } from '../../time/zones';
import { readReply } from '../../language/replies';
import { BY_ITSELF, go, readingWorld, type Play, type StepKind, type StepWorld } from './step';

export const Change = z.discriminatedUnion('do', [
  z.object({ do: z.literal('field'), field: FieldKey, value: z.string().max(1_000) }).strict(),
  /** Arithmetic on a number field; one that has no value yet counts as nought. */
  z
    .object({
      do: z.literal('calculate'),
      field: FieldKey,
      by: z.enum(['plus', 'minus', 'times', 'divided by']),
      amount: z.string().max(200),
    })
    .strict(),
  /** The present day or time, by the person's clock. */
  z.object({ do: z.literal('now'), field: FieldKey }).strict(),
  /** A day reckoned from that of a field, or from the present one, by moves that are made in turn. */
  z
    .object({
      do: z.literal('date'),
      field: FieldKey,
      from: FieldKey.optional(),
      moves: z.array(DayMove).min(1, 'say how the day is moved, such as "+6 weeks"').max(5),
    })
    .strict(),
  z.object({ do: z.literal('copy'), field: FieldKey, from: FieldKey }).strict(),
  z.object({ do: z.literal('clear'), field: FieldKey }).strict(),
  z.object({ do: z.literal('add tag'), tag: TagName }).strict(),
  z.object({ do: z.literal('remove tag'), tag: TagName }).strict(),
  z.object({ do: z.literal('join list'), list: ListName }).strict(),
  z.object({ do: z.literal('leave list'), list: ListName }).strict(),
  z.object({ do: z.literal('opt in') }).strict(),
  z.object({ do: z.literal('opt out') }).strict(),
]);
export type Change = z.infer<typeof Change>;

/** Sets fields, tags, lists and opt-ins, silently. */
export const SetStep = z
  .object({
    id: LocalId,
    kind: z.literal('set'),
    changes: z.array(Change).min(1, 'a set needs something to set').max(20),
  })
  .strict();
export type SetStep = z.infer<typeof SetStep>;

export const set: StepKind<SetStep> = {
  enter(step, play) {
    for (const change of step.changes) make(change, play);
    return go(NEXT);
  },
  exits: () => [],
  // An opt-out ends every run.
  fallsTo: (step) => (step.changes.some((change) => change.do === 'opt out') ? [] : BY_ITSELF),
  texts: (step) =>
    step.changes.flatMap((change) =>
      change.do === 'field'
        ? [change.value]
        : change.do === 'calculate'
          ? [change.amount]
          : change.do === 'date'
            ? change.moves
            : [],
    ),
  words: (step) => step.changes.map(changeWords).join('; '),
};

function make(change: Change, play: Play): void {
  switch (change.do) {
    case 'add tag':
    case 'remove tag':
      play.tag(change.tag, change.do === 'add tag');
      return play.note({ code: 'tag', tag: change.tag, on: change.do === 'add tag' });
    case 'join list':
    case 'leave list':
      play.list(change.list, change.do === 'join list');
      return play.note({ code: 'list', list: change.list, on: change.do === 'join list' });
    case 'opt in':
    case 'opt out':
      return play.consent(change.do === 'opt in' ? 'opt-in' : 'opt-out', 'by a step of the loop');
    case 'clear':
      play.setField(change.field, null);
      return play.note({ code: 'field set', field: change.field, value: null });
    default: {
      const value = valueOf(change, play);
      if (typeof value === 'string')
        return play.note({ code: 'field not set', field: change.field, reason: value });
      play.setField(change.field, value);
      return play.note({ code: 'field set', field: change.field, value });
    }
  }
}

/** The value that a change gives its field, or why it gives none. */
function valueOf(
  change: Extract<Change, { do: 'field' | 'calculate' | 'date' | 'now' | 'copy' }>,
  play: Play,
): Value | string {
  const { world } = play;
  const type: FieldType =
    world.fields[change.field] ??
    (change.do === 'calculate' ? 'number' : change.do === 'date' ? 'date' : 'text');
  const read = (written: string): Value | string => {
    const reading = readReply(type, written, { ...readingWorld(world), days: 'any' });
    return reading.ok ? reading.value : reading.reason;
  };
  switch (change.do) {
    case 'field':
      return read(play.merge(change.value));
    case 'now': {
      const { date, time } = localTime(world.now, world.zone);
      return type === 'date'
        ? { type, value: date }
        : type === 'time'
          ? { type, value: time }
          : type === 'text'
            ? { type, value: `${date} ${time}` }
            : `a ${type} cannot hold the present day or time`;
    }
    case 'date': {
      let day = change.from === undefined ? localTime(world.now, world.zone).date : dayOf(change.from, world);
      if (day === null) return `${change.from} holds no day`;
      for (const move of change.moves.map((each) => play.merge(each).trim())) {
        day = moveDay(day, move, world.client.openingHours);
        if (day === null) return `“${move}” leads to no day`;
      }
      return type === 'date' || type === 'text' ? { type, value: day } : `a ${type} cannot hold a day`;
    }
    case 'copy': {
      const from = world.person.fields[change.from];
      if (!from) return `${change.from} has no value`;
      return from.type === type
        ? from
        : read(typeof from.value === 'object' ? JSON.stringify(from.value) : String(from.value));
    }
    case 'calculate': {
      const before = world.person.fields[change.field];
      if (type !== 'number' || (before && before.type !== 'number'))
        return 'only a number can be calculated with';
      const amount = readReply('number', play.merge(change.amount), {
        ...readingWorld(world),
        language: 'en',
      });
      if (!amount.ok || amount.value.type !== 'number') return `“${play.merge(change.amount)}” is no number`;
      const [a, b] = [before?.type === 'number' ? before.value : 0, amount.value.value];
      if (change.by === 'divided by' && b === 0) return 'nothing can be divided by nought';
      const result = { plus: a + b, minus: a - b, times: a * b, 'divided by': a / b }[change.by];
      return Number.isFinite(result)
        ? { type: 'number', value: Math.round(result * 1e9) / 1e9 }
        : 'the result is too large';
    }
  }
}

/** The day (YYYY-MM-DD) that a field holds, as a date or written in a text. */
function dayOf(field: string, world: StepWorld): string | null {
  const value = world.person.fields[field];
  if (value?.type === 'date') return value.value;
  if (value?.type !== 'text') return null;
  const reading = readReply('date', value.value, { ...readingWorld(world), days: 'any' });
  return reading.ok && reading.value.type === 'date' ? reading.value.value : null;
}

/** How the script words one change: "party size = 4", "tag vip on". */
export function changeWords(change: Change): string {
  const name = (key: string) => key.replaceAll('_', ' ');
  switch (change.do) {
    case 'field':
      return `${name(change.field)} = ${change.value}`;
    case 'calculate':
      return `${name(change.field)} ${change.by} ${change.amount}`;
    case 'now':
      return `${name(change.field)} = now`;
    case 'date':
      return `${name(change.field)} = ${name(change.from ?? 'today')}${change.moves
        .map((move) => (/^[+-]/.test(move) ? ` ${move}` : `, ${move}`))
        .join('')}`;
    case 'copy':
      return `${name(change.field)} = copy of ${name(change.from)}`;
    case 'clear':
      return `${name(change.field)} cleared`;
    case 'add tag':
      return `tag ${change.tag} on`;
    case 'remove tag':
      return `tag ${change.tag} off`;
    case 'join list':
      return `list ${change.list} joined`;
    case 'leave list':
      return `list ${change.list} left`;
    case 'opt in':
      return 'opted in on this line';
    case 'opt out':
      return 'opted out of this line';
  }
}
