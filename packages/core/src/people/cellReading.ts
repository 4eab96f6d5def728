import { FileValue, type FieldType, type Value } from './person';
import { isDate, isTimeOfDay } from '../time/clockTime';
import { readReply } from '../language/replies';
import type { ReadingWorld } from '../language/replies/reading';
import { parted } from './csvWriting';

/** How days are written in figures: 3/4 as the third of April or the fourth of March. */
export type DayOrder = 'day first' | 'month first';

export interface CellWorld extends ReadingWorld {
  days: 'any';
  dayOrder: DayOrder;
  /** Written by us: cells are taken as they are. */
  ours: boolean;
}

export type CellReading = { ok: true; value: Value } | { ok: false; reason: string };

const ok = (value: Value): CellReading => ({ ok: true, value });
const no = (reason: string): CellReading => ({ ok: false, reason });

/**
 * Reads a cell as a value of a type, more strictly than a person's answer: the whole cell has to be it.
 * `options`: what may be chosen, where that is limited. The cell is not empty.
 */
export function readCell(
  type: FieldType,
  cell: string,
  world: CellWorld,
  options: readonly string[] = [],
): CellReading {
  const written = cell.trim();
  switch (type) {
    case 'text':
      return cell.length > 4_096 ? no('it is longer than 4,096 letters') : ok({ type, value: cell });
    case 'number':
      return readNumber(written, world);
    case 'date':
      return readDate(written, world);
    case 'time':
      return isTimeOfDay(written) ? ok({ type, value: written }) : fromReply(type, written, world);
    case 'several of': {
      const names = parted(written, !world.ours);
      const unknown = options.length > 0 ? names.find((name) => !chosen(options, name)) : undefined;
      if (unknown !== undefined) return no(`“${unknown}” is none of ${options.join(', ')}`);
      return ok({ type, value: options.length > 0 ? names.map((name) => chosen(options, name)!) : names });
    }
    case 'one of': {
      const found = options.length === 0 ? written : chosen(options, written);
      return found === undefined
        ? no(`“${written}” is none of ${options.join(', ')}`)
        : ok({ type, value: found });
    }
    case 'place':
      return readPlace(written);
    case 'file': {
      try {
        const file = FileValue.safeParse(JSON.parse(written));
        return file.success ? ok({ type, value: file.data }) : no('it is no file');
      } catch {
        const page = readReply('page address', written, world);
        return page.ok
          ? ok({ type, value: { address: String(page.value.value), what: 'file' } })
          : no('it is no address of a file');
      }
    }
    case 'yes/no': {
      const short = /^(1|y|true|wahr|x)$/i.test(written)
        ? true
        : /^(0|n|false|falsch|-)$/i.test(written)
          ? false
          : null;
      return short === null ? fromReply(type, written, world) : ok({ type, value: short });
    }
    case 'phone':
    case 'email':
    case 'page address':
      return fromReply(type, written, world);
  }
}

function fromReply(type: FieldType, written: string, world: CellWorld): CellReading {
  const reading = readReply(type, written, world);
  return reading.ok ? ok(reading.value) : no(reading.reason);
}

const chosen = (options: readonly string[], name: string) =>
  options.find((option) => option.toLowerCase() === name.toLowerCase());

/**
 * Figures alone, with one kind of sign between thousands and another before the decimals. Long ids would lose
 * their end: they are no numbers.
 */
function readNumber(written: string, world: CellWorld): CellReading {
  const digits = written.replace(/\D/g, '').replace(/^0+/, '');
  if (digits.length > 15 && !/e/i.test(written))
    return no(
      `it has ${digits.length} digits, and a number keeps 15; map the column to a text field, so that none is lost`,
    );
  const plain = /^[+-]?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(written) ? Number(written) : null;
  if (plain !== null && Number.isFinite(plain)) return ok({ type: 'number', value: plain === 0 ? 0 : plain });
  if (!/^[+-]?[\d.,' \u00a0\u202f]+$/.test(written)) return no(`“${shorten(written)}” is no number`);
  const reading = readReply('number', written, world);
  return reading.ok ? ok(reading.value) : no(reading.reason);
}

function readDate(written: string, world: CellWorld): CellReading {
  if (isDate(written)) return ok({ type: 'date', value: written });
  const moment = /^(\d{4}-\d{2}-\d{2})[T ]\d{2}:\d{2}/.exec(written)?.[1];
  if (moment && isDate(moment)) return ok({ type: 'date', value: moment });
  const figures = /^(\d{1,2})[./-](\d{1,2})[./-](\d{2}|\d{4})$/.exec(written);
  if (!figures) return fromReply('date', written, world);
  const [, first, second, year] = figures as unknown as [string, string, string, string];
  const [day, month] = world.dayOrder === 'day first' ? [first, second] : [second, first];
  const value = `${fullYear(year, world.now)}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  return isDate(value)
    ? ok({ type: 'date', value })
    : no(`“${written}” is no day of the calendar when days are written ${world.dayOrder}`);
}

/** Two figures are the year within the last 80 and the next 20. */
function fullYear(year: string, now: number): string {
  if (year.length === 4) return year;
  const thisYear = new Date(now).getUTCFullYear();
  const found = Math.floor(thisYear / 100) * 100 + Number(year);
  return String(found > thisYear + 20 ? found - 100 : found);
}

function readPlace(written: string): CellReading {
  const [, north, east, name] =
    /^(-?\d{1,2}(?:\.\d+)?)\s*[,;]\s*(-?\d{1,3}(?:\.\d+)?)(?:\s*[,;]\s*(.+))?$/s.exec(written) ?? [];
  const latitude = Number(north);
  const longitude = Number(east);
  if (north === undefined || Math.abs(latitude) > 90 || Math.abs(longitude) > 180)
    return no('a place is written as degrees north, degrees east');
  return ok({ type: 'place', value: { latitude, longitude, ...(name !== undefined && { name }) } });
}

const shorten = (words: string) => (words.length > 60 ? `${words.slice(0, 59)}…` : words);
