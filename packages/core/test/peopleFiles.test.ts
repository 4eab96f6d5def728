import fc from 'fast-check';
import type { Value } from '../src';
import { readCell, type CellWorld } from '../src/people/cellReading';
import { CsvReader, csvShapeOf, type CsvRow } from '../src/people/csvReading';
import { cellsLine, csvColumns, csvLine, joined, parted } from '../src/people/csvWriting';
import { encodingOf, type Encoding } from '../src/people/encoding';
import { defused, fused } from '../src/people/formulas';
import { jsonLine, readJsonLine } from '../src/people/jsonLines';
import type { ColumnUse } from '../src/people/columnUse';
import { guessMapping } from '../src/people/mapping';
import { emptyRecord, type PersonRecord } from '../src/people/record';
import { readRow } from '../src/people/rowReading';
import { partCards, readCard, vCardOf } from '../src/people/vCard';
import { NINE } from './support';

const world: CellWorld = {
  country: 'GB',
  language: 'en',
  now: NINE,
  zone: 'Europe/London',
  days: 'any',
  dayOrder: 'day first',
  ours: false,
};
const LINES = [
  { key: 'sms', channel: 'sms' },
  { key: 'telegram', channel: 'telegram' },
];

/** All rows of a text that arrives in pieces of `size` letters. */
function rowsOf(text: string, size = text.length || 1, ours = false): CsvRow[] {
  const reader = new CsvReader(csvShapeOf(text, ours));
  const rows: CsvRow[] = [];
  for (let at = 0; at < text.length; at += size) rows.push(...reader.push(text.slice(at, at + size)));
  return [...rows, ...reader.push('', true)];
}
const cellsOf = (text: string, size?: number) => rowsOf(text, size).map((row) => row.cells);

describe('files of cells', () => {
  test.each([
    [
      'commas',
      'a,b\n1,2\n',
      [
        ['a', 'b'],
        ['1', '2'],
      ],
    ],
    [
      'semicolons',
      'name;town\nMira;Harwick\n',
      [
        ['name', 'town'],
        ['Mira', 'Harwick'],
      ],
    ],
    [
      'tabs',
      'name\ttown\nMira\tHarwick',
      [
        ['name', 'town'],
        ['Mira', 'Harwick'],
      ],
    ],
    [
      'Windows line ends',
      'a,b\r\n1,2\r\n',
      [
        ['a', 'b'],
        ['1', '2'],
      ],
    ],
    [
      'line ends of old',
      'a,b\r1,2\r',
      [
        ['a', 'b'],
        ['1', '2'],
      ],
    ],
    [
      'quotation marks, commas and line breaks in cells',
      'a,b\n"1, ""one""","two\nlines"\n',
      [
        ['a', 'b'],
        ['1, "one"', 'two\nlines'],
      ],
    ],
    [
      'a byte order mark',
      '\uFEFFa,b\n1,2',
      [
        ['a', 'b'],
        ['1', '2'],
      ],
    ],
    [
      'empty columns',
      'a,,c\n1,,\n',
      [
        ['a', '', 'c'],
        ['1', '', ''],
      ],
    ],
  ])('%s', (_, text, expected) => {
    for (const size of [1, 2, 7, 1_000])
      expect(cellsOf(text, size).filter((cells) => cells.join('') !== '')).toEqual(expected);
  });

  test('half a file says where it was cut off', () => {
    const rows = rowsOf('name,note\nMira,"hello\nthere', 5);
    expect(rows.at(-1)).toMatchObject({ number: 2, problem: expect.stringContaining('cut off') });
    expect(rows[0]!.problem).toBeNull();
  });

  test('however it is cut into pieces, a written file reads back as it was', () => {
    const cell = fc.oneof(
      fc.string(),
      fc.string({ unit: 'grapheme' }),
      fc.constantFrom('=cmd', '+44 7700', '"', '\n', '\r\n', "'=x", '-', '@a', '\t', ' padded '),
    );
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 2, maxLength: 6 }),
        fc.integer({ min: 1, max: 9 }),
        (table, size) => {
          const wide = table.map((cells) => [...cells, 'end']);
          const text = wide.map(cellsLine).join('');
          const reader = new CsvReader({ separator: ',', newline: '\r\n' });
          const rows: CsvRow[] = [];
          for (let at = 0; at < text.length; at += size) rows.push(...reader.push(text.slice(at, at + size)));
          rows.push(...reader.push('', true));
          const read = rows.filter((row) => row.cells.length > 1).map((row) => row.cells.map(fused));
          expect(read).toEqual(wide);
        },
      ),
    );
  });

  test.each<[string, number[], Encoding]>([
    ['UTF-8', [...new TextEncoder().encode('Örrin,Ñandú')], 'utf-8'],
    ['UTF-8 with its mark', [0xef, 0xbb, 0xbf, 0x61], 'utf-8'],
    ['Latin-1', [0xd6, 0x72, 0x72, 0x69, 0x6e, 0x2c, 0x61], 'windows-1252'],
    ['UTF-16 with its mark', [0xff, 0xfe, 0x61, 0], 'utf-16le'],
    ['UTF-16 without a mark', [...'name,town'].flatMap((letter) => [letter.charCodeAt(0), 0]), 'utf-16le'],
    [
      'UTF-16, the greater byte first',
      [...'name,town'].flatMap((letter) => [0, letter.charCodeAt(0)]),
      'utf-16be',
    ],
  ])('%s is told from its bytes', (_, bytes, encoding) =>
    expect(encodingOf(Uint8Array.from(bytes), true)).toBe(encoding),
  );

  test('a letter that the first piece cuts in two does not make it Latin-1', () => {
    const bytes = new TextEncoder().encode('Mira Ö').subarray(0, 6);
    expect([encodingOf(bytes, false), encodingOf(bytes, true)]).toEqual(['utf-8', 'windows-1252']);
  });
});

describe('formulas', () => {
  test.each([
    ['=cmd|calc', "'=cmd|calc"],
    ['@SUM(A1)', "'@SUM(A1)"],
    ['-2+3+cmd', "'-2+3+cmd"],
    ["'=x", "''=x"],
    ['+44 7700 900144', '+44 7700 900144'],
    ['-5', '-5'],
    ['plain', 'plain'],
  ])('%s is written as %s', (cell, written) => {
    expect(defused(cell)).toBe(written);
    expect(fused(written)).toBe(cell);
  });
  test('whatever is defused is found again', () => {
    fc.assert(fc.property(fc.string(), (cell) => expect(fused(defused(cell))).toBe(cell)));
  });
});

describe('a cell is read as its type, or said to be none', () => {
  const value = (
    type: Value['type'],
    cell: string,
    more: Partial<CellWorld> = {},
    options: string[] = [],
  ) => {
    const read = readCell(type, cell, { ...world, ...more }, options);
    return read.ok ? read.value.value : read.reason;
  };
  test.each<[Value['type'], string, unknown]>([
    ['text', '00123', '00123'],
    ['number', '1,250.50', 1250.5],
    ['number', '0', 0],
    ['number', 'many', '“many” is no number'],
    [
      'number',
      '123456789012345678',
      'it has 18 digits, and a number keeps 15; map the column to a text field, so that none is lost',
    ],
    ['date', '3/4/2026', '2026-04-03'],
    ['date', '2026-02-30', expect.stringContaining('no day')],
    ['date', '31.12.99', '1999-12-31'],
    ['date', '2026-11-25T23:30:00Z', '2026-11-25'],
    ['time', '9:30', '09:30'],
    ['phone', '+44', expect.stringContaining('do not make a phone number')],
    ['phone', '07700 900144', '+447700900144'],
    ['email', 'mira@', expect.stringContaining('not a whole email address')],
    ['yes/no', 'ja', true],
    ['yes/no', '0', false],
    ['several of', 'a; b\\; c', ['a', 'b; c']],
    ['page address', 'saltmarshferries.example/book', 'https://saltmarshferries.example/book'],
    ['place', '51.5, -0.12, Harwick', { latitude: 51.5, longitude: -0.12, name: 'Harwick' }],
    ['place', '91, 0', expect.stringContaining('degrees')],
  ])('%s: %s', (type, cell, expected) => expect(value(type, cell)).toEqual(expected));

  test('days in figures go by the order that was chosen', () => {
    expect(value('date', '3/4/2026', { dayOrder: 'month first' })).toBe('2026-03-04');
    expect(value('date', '31/4/2026', { dayOrder: 'month first' })).toContain('month first');
  });
  test('only what may be chosen is taken', () => {
    expect(value('one of', 'BOAT', {}, ['Boat', 'Bus'])).toBe('Boat');
    expect(value('one of', 'Car', {}, ['Boat', 'Bus'])).toBe('“Car” is none of Boat, Bus');
    expect(value('several of', 'boat; car', {}, ['Boat', 'Bus'])).toContain('“car” is none of');
  });
});

describe('columns are guessed', () => {
  const known = { fields: [{ key: 'town', name: 'Home town', type: 'text' as const }], lines: LINES };
  const guess = (header: string[], ...rows: string[][]) =>
    guessMapping(header, rows, known, world).map((column) => column.use);
  test('by their names in several languages, and by what their cells look like', () => {
    expect(
      guess(
        [
          'Vorname',
          'Apellidos',
          'E-Mail',
          'Mobile No',
          'Home Town',
          'Member ID',
          'Visits',
          'Since',
          'VIP',
          'Site',
          '',
        ],
        [
          'Mira',
          'Lund',
          'mira@example.org',
          '07700 900144',
          'Harwick',
          '001234567890123456',
          '12',
          '3/4/2025',
          'yes',
          'https://x.example',
          '',
        ],
      ),
    ).toEqual<ColumnUse[]>([
      { as: 'first name' },
      { as: 'last name' },
      { as: 'field', field: 'email', type: 'email' },
      { as: 'field', field: 'phone', type: 'phone' },
      { as: 'field', field: 'town', type: 'text' },
      { as: 'field', field: 'member_id', type: 'text' },
      { as: 'field', field: 'visits', type: 'number' },
      { as: 'field', field: 'since', type: 'date' },
      { as: 'field', field: 'vip', type: 'yes/no' },
      { as: 'field', field: 'site', type: 'page address' },
      { as: 'nothing' },
    ]);
  });
  test('leading noughts and long ids stay text; the same use is not guessed twice', () => {
    expect(guess(['count', 'name', 'full name'], ['007', 'Mira', 'Mira Lund'])).toEqual([
      { as: 'field', field: 'count', type: 'text' },
      { as: 'whole name' },
      { as: 'field', field: 'full_name', type: 'text' },
    ]);
  });
  test('two hundred columns are no trouble', () => {
    const header = Array.from({ length: 200 }, (_, n) => `column ${n}`);
    expect(
      guess(
        header,
        header.map((_, n) => String(n)),
      ),
    ).toHaveLength(200);
  });
});

describe('a row', () => {
  const read = (header: string[], uses: ColumnUse[], cells: string[]) =>
    readRow(2, cells, {
      ...world,
      header,
      uses,
      fields: new Map(),
      lines: new Map(LINES.map((line) => [line.key, line])),
      ours: false,
    });
  test('gives a person, and every bad cell with its column and reason', () => {
    const { record, problems } = read(
      ['Name', 'Mail', 'Age', 'Phone', 'Said'],
      [
        { as: 'whole name' },
        { as: 'field', field: 'email', type: 'email' },
        { as: 'field', field: 'age', type: 'number' },
        { as: 'address', line: 'sms' },
        { as: 'consent', line: 'sms' },
      ],
      ['Lund, Mira', 'mira(at)example', 'old', '07700 900144', 'opted in'],
    );
    expect(record).toMatchObject({
      firstName: 'Mira',
      lastName: 'Lund',
      fields: {},
      identities: [{ line: 'sms', address: '+447700900144', handle: null, consent: 'opted in' }],
    });
    expect(problems.map(({ row, column, cell }) => [row, column, cell])).toEqual([
      [2, 'Mail', 'mira(at)example'],
      [2, 'Age', 'old'],
    ]);
  });
  test('with more cells than columns, or consent without an address, is said to be wrong', () => {
    expect(read(['a'], [{ as: 'first name' }], ['Mira', 'x']).problems[0]!.reason).toContain('2 cells');
    expect(read(['a'], [{ as: 'consent', line: 'sms' }], ['opted in']).problems[0]!.reason).toContain(
      'no address',
    );
  });
});

const value: fc.Arbitrary<Value> = fc.oneof(
  fc.string({ unit: 'grapheme', minLength: 1 }).map((text): Value => ({ type: 'text', value: text })),
  fc
    .double({ noNaN: true, noDefaultInfinity: true })
    .map((number): Value => ({ type: 'number', value: number === 0 ? 0 : number })),
  fc.constantFrom('2026-11-25', '1999-01-01').map((day): Value => ({ type: 'date', value: day })),
  fc.boolean().map((yes): Value => ({ type: 'yes/no', value: yes })),
);
const name = fc
  .string({ minLength: 1, maxLength: 20 })
  .map((text) => text.trim())
  .filter(Boolean);
const record: fc.Arbitrary<PersonRecord> = fc.record({
  id: fc.uuid(),
  firstName: fc.option(name),
  lastName: fc.option(name),
  language: fc.constantFrom(null, 'es', 'en-GB'),
  source: fc.option(name),
  met: fc.integer({ min: 0, max: 2_000_000_000 }).map((seconds) => seconds * 1_000),
  seen: fc.integer({ min: 0, max: 2_000_000_000 }).map((seconds) => seconds * 1_000),
  tags: fc.uniqueArray(name, { maxLength: 3 }),
  lists: fc.uniqueArray(name, { maxLength: 2 }),
  identities: fc.subarray([
    { line: 'sms', address: '+447700900144', handle: null, consent: 'opted in' as const },
    { line: 'telegram', address: '63001', handle: '@mira', consent: null },
  ]),
  fields: fc.dictionary(fc.constantFrom('town', 'note'), value, { maxKeys: 2 }),
  ledger: fc.constant([]),
});

describe('written and read back', () => {
  test('JSON Lines and vCard give back everything; a line that is cut off is refused', () => {
    fc.assert(
      fc.property(record, (person) => {
        expect(readJsonLine(jsonLine(person))).toEqual({ ok: true, record: person });
        expect(readJsonLine(jsonLine(person).slice(0, -3))).toMatchObject({ ok: false });
        const card = vCardOf(person);
        for (const line of card.split('\r\n'))
          expect(new TextEncoder().encode(line).length).toBeLessThanOrEqual(75);
        expect(readCard(1, card, world)).toEqual({ record: person, problems: [] });
      }),
    );
  });
  test('a file of cells gives back the same file', () => {
    fc.assert(
      fc.property(fc.array(record, { minLength: 1, maxLength: 5 }), (people) => {
        // A column has one type.
        const typed = people.map((person) => ({
          ...person,
          fields: Object.fromEntries(
            Object.entries(person.fields).filter(([, each]) => each.type === 'text'),
          ),
        }));
        const header = csvColumns(['sms', 'telegram'], ['note', 'town']);
        const text =
          cellsLine(header) +
          typed.map((person) => csvLine(person, ['sms', 'telegram'], ['note', 'town'])).join('');
        const reader = new CsvReader({ separator: ',', newline: '\r\n' });
        const [first, ...rows] = [...reader.push(text), ...reader.push('', true)].filter(
          (row) => row.cells.length > 1,
        );
        expect(first!.cells).toEqual(header);
        const known = {
          fields: ['note', 'town'].map((key) => ({ key, name: key, type: 'text' as const })),
          lines: LINES,
        };
        const uses = guessMapping(header, [], known, world).map((column) => column.use);
        const again = rows.map((row) => {
          const read = readRow(row.number, row.cells, {
            ...world,
            header,
            uses,
            fields: new Map(),
            lines: new Map(LINES.map((line) => [line.key, line])),
            ours: true,
          });
          expect(read.problems).toEqual([]);
          return csvLine({ ...emptyRecord(), ...read.record }, ['sms', 'telegram'], ['note', 'town']);
        });
        expect(cellsLine(header) + again.join('')).toBe(text);
      }),
    );
  });
  test('names in one cell may hold what parts them', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(
          name.filter((each) => !each.includes(',')),
          { maxLength: 5 },
        ),
        (names) => expect(parted(joined(names))).toEqual(names),
      ),
    );
  });
  test('cards of others are read, 3.0 as well as 4.0', () => {
    const { cards, rest } = partCards(
      'BEGIN:VCARD\nVERSION:3.0\nN:Lund;Mira;;;\nFN:Mira Lund\nTEL;TYPE=CELL:07700 900144\nEMAIL:mira@example.org\nEMAIL:not one\nCATEGORIES:vip,ferry\nEND:VCARD\nBEGIN:VCARD\nFN:x',
    );
    expect(cards).toHaveLength(1);
    expect(rest).toContain('FN:x');
    const { record: read, problems } = readCard(1, cards[0]!, world);
    expect(read).toMatchObject({
      firstName: 'Mira',
      lastName: 'Lund',
      tags: ['vip', 'ferry'],
      fields: {
        phone: { type: 'phone', value: '+447700900144' },
        email: { type: 'email', value: 'mira@example.org' },
      },
    });
    expect(problems).toMatchObject([{ row: 1, column: 'EMAIL', cell: 'not one' }]);
  });
});
