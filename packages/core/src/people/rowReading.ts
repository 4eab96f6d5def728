import { ListName, TagName } from '../loops/model/basics';
import type { FieldDefinition } from './person';
import { readReply } from '../language/replies';
import { readCell, type CellWorld } from './cellReading';
import { parted } from './csvWriting';
import { fused } from './formulas';
import type { ColumnUse } from './columnUse';
import { emptyRecord, type PersonRecord, type RecordedIdentity } from './record';

/** A cell that cannot be read: which, what stands in it, and what was expected. */
export interface CellProblem {
  row: number;
  /** The column's name; null where the row as a whole is wrong. */
  column: string | null;
  cell: string;
  reason: string;
}

export interface RowWorld extends CellWorld {
  header: readonly string[];
  uses: readonly ColumnUse[];
  fields: ReadonlyMap<string, Pick<FieldDefinition, 'type' | 'options'>>;
  /** Lines by their keys, with what their addresses are. */
  lines: ReadonlyMap<string, { channel: string }>;
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

/** Reads one row of cells as a person, with every cell that cannot be read. */
export function readRow(
  number: number,
  cells: readonly string[],
  world: RowWorld,
): { record: PersonRecord; problems: CellProblem[] } {
  const record = emptyRecord();
  const problems: CellProblem[] = [];
  const identities: Identities = new Map();
  const { header, uses } = world;
  if (cells.length > header.length && cells.slice(header.length).some((cell) => cell.trim() !== ''))
    problems.push({
      row: number,
      column: null,
      cell: cells.join(','),
      reason: `it has ${cells.length} cells, and the file has ${header.length} columns`,
    });
  uses.forEach((use, at) => {
    if (use.as === 'nothing') return;
    const raw = fused(cells[at] ?? '');
    const cell = world.ours ? raw : raw.trim();
    if (cell.trim() === '' && !(world.ours && cell !== '' && use.as === 'field')) return;
    readInto(
      { record, identities },
      use,
      cell,
      world,
      (reason) => void problems.push({ row: number, column: header[at] ?? '', cell, reason }),
    );
  });
  for (const [line, { address, handle = null, consent = null }] of identities)
    if (address !== undefined) record.identities.push({ line, address, handle, consent });
    else if (consent)
      problems.push({
        row: number,
        column: null,
        cell: consent,
        reason: `it says “${consent}” for the line ${line}, and has no address there`,
      });
  return { record, problems };
}

/** What a row says of somebody on each line, by the line's key. */
type Identities = Map<string, Partial<RecordedIdentity>>;

/** Reads one cell into the person, as its column is used; tells where it cannot be read. */
function readInto(
  { record, identities }: { record: PersonRecord; identities: Identities },
  use: Exclude<ColumnUse, { as: 'nothing' }>,
  cell: string,
  world: RowWorld,
  problem: (reason: string) => void,
): void {
  const identity = (line: string) => {
    const there = identities.get(line) ?? {};
    identities.set(line, there);
    return there;
  };
  const named = (schema: typeof TagName, names: string[]) =>
    names.filter((name) => {
      const read = schema.safeParse(name);
      if (!read.success) problem(`“${name.slice(0, 60)}…”: ${read.error.issues[0]!.message}`);
      return read.success;
    });
  switch (use.as) {
    case 'person id':
      if (UUID.test(cell)) record.id = cell.toLowerCase();
      else problem('it is no id of a person of ours; map the column to a text field');
      return;
    case 'first name':
    case 'last name':
      record[use.as === 'first name' ? 'firstName' : 'lastName'] = cell.slice(0, 120);
      return;
    case 'whole name': {
      const [first, ...rest] = cell.split(/\s+/);
      const [last, given] = cell.includes(',')
        ? cell.split(',', 2).map((part) => part.trim())
        : [rest.join(' '), first];
      record.firstName = given?.slice(0, 120) || null;
      record.lastName = last?.slice(0, 120) || null;
      return;
    }
    case 'language': {
      const code = /^([a-z]{2})([-_].*)?$/i.exec(cell);
      if (code) record.language = world.ours ? cell : code[1]!.toLowerCase();
      else problem('a language is two letters, such as “es”');
      return;
    }
    case 'source':
      record.source = cell.slice(0, 120);
      return;
    case 'first met':
    case 'last seen': {
      const at = momentOf(cell, world);
      if (at === null) problem('it is no moment, such as 2026-11-25T14:30:00Z');
      else record[use.as === 'first met' ? 'met' : 'seen'] = at;
      return;
    }
    case 'tags':
      record.tags = named(TagName, parted(cell, !world.ours));
      return;
    case 'lists':
      record.lists = named(ListName, parted(cell, !world.ours));
      return;
    case 'address': {
      const address = addressOf(cell, world.lines.get(use.line)?.channel, world);
      if (address.ok) identity(use.line).address = address.address;
      else problem(address.reason);
      return;
    }
    case 'handle':
      identity(use.line).handle = cell.slice(0, 120);
      return;
    case 'consent':
      if (/^opted[ -]?in$|^(yes|true|1)$/i.test(cell)) identity(use.line).consent = 'opted in';
      else if (/^opted[ -]?out$|^(no|false|0)$/i.test(cell)) identity(use.line).consent = 'opted out';
      else problem('it says neither “opted in” nor “opted out”');
      return;
    case 'field': {
      const definition = world.fields.get(use.field) ?? { type: use.type, options: [] };
      const reading = readCell(definition.type, cell, world, definition.options);
      if (reading.ok) record.fields[use.field] = reading.value;
      else problem(reading.reason);
    }
  }
}

/**
 * The address of somebody on a line: a number in E.164 where the channel goes by numbers, else the platform's
 * own id.
 */
export function addressOf(
  cell: string,
  channel: string | undefined,
  world: CellWorld,
): { ok: true; address: string } | { ok: false; reason: string } {
  if (channel === undefined) return { ok: false, reason: 'the client has no such line' };
  if (channel === 'sms' || channel === 'whatsapp') {
    const reading = readReply('phone', cell, world);
    return reading.ok ? { ok: true, address: String(reading.value.value) } : reading;
  }
  return /^[\w.-]{1,64}$/.test(cell)
    ? { ok: true, address: cell }
    : { ok: false, reason: `it is no id that ${channel} gives people` };
}

function momentOf(cell: string, world: CellWorld): number | null {
  if (/^\d{4}-\d{2}-\d{2}T[\d:.]+(Z|[+-]\d{2}:?\d{2})$/.test(cell)) {
    const at = Date.parse(cell);
    return Number.isNaN(at) ? null : at;
  }
  const day = readCell('date', cell, world);
  return day.ok ? Date.parse(`${String(day.value.value)}T12:00:00Z`) : null;
}
