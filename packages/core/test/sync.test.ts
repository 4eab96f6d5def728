import { addressOn, fileNameOn, headLine, rowLine } from '../src/sync/kinds/file';
import fc from 'fast-check';
import { stranger, type ClientFacts, type Value } from '../src';
import {
  Mapping,
  convert,
  mappingFindings,
  rowOf,
  type ColumnType,
  type MappedColumn,
  type Origin,
  type SyncedPerson,
} from '../src/sync/mapping';
import { contact } from '../src/sync/kinds/contact';
import type { Call, Parcel, Reply } from '../src/sync/kinds/kind';
import { rows } from '../src/sync/kinds/rows';
import { webhook } from '../src/sync/kinds/webhook';

const NOW = Date.UTC(2026, 10, 26, 12);
const client: ClientFacts = {
  name: 'Saltmarsh Ferries',
  brief: { hours: '8 to 18' },
  country: 'GB',
  timeZone: 'Europe/London',
  languages: ['en'],
  openingHours: {},
};
const field = (name: string): Origin => ({ from: 'field', field: name });
const column = (to: string, as: ColumnType, origin: Origin, otherwise?: string): MappedColumn => ({
  to,
  as,
  origin,
  ...(otherwise !== undefined && { otherwise }),
});
const known = (fields: Record<string, Value>, more: Partial<SyncedPerson> = {}): SyncedPerson => ({
  ...stranger('00000000-0000-7000-8000-000000000001', NOW),
  addresses: ['+447700900123'],
  fields,
  ...more,
});
const parcel = (cells: Parcel['row']['cells'], more: Partial<Parcel> = {}): Parcel => ({
  id: 'd1',
  at: NOW,
  person: known({}),
  client,
  row: { cells, problems: [] },
  theirId: null,
  ...more,
});

describe('a row', () => {
  test('holds each column in its type, texts with merge fields, and nothing for what is not known', () => {
    const person = known(
      {
        town: { type: 'text', value: 'Harwick' },
        crossings: { type: 'number', value: 12 },
        birthday: { type: 'date', value: '1980-02-29' },
        news: { type: 'yes/no', value: true },
        stops: { type: 'several of', value: ['Fenwater', 'Marrow Bay'] },
      },
      { firstName: 'Anna', tags: ['vip'] },
    );
    const mapping = [
      column('city', 'text', field('town')),
      column('trips', 'number', field('crossings')),
      column('trips_text', 'text', field('crossings')),
      column('born', 'date', field('birthday')),
      column('news', 'yes/no', field('news')),
      column('stops', 'list', field('stops')),
      column('stops_text', 'text', field('stops')),
      column('phone', 'text', { from: 'fact', fact: 'phone' }),
      column('met', 'date', { from: 'fact', fact: 'first met' }),
      column('tags', 'list', { from: 'fact', fact: 'tags' }),
      column('note', 'text', { from: 'text', text: '{{ person.first_name }} of {{ person.town }}' }),
      column('plan', 'text', { from: 'text', text: 'basic' }),
      column('email', 'text', { from: 'fact', fact: 'email' }),
      column('seats', 'number', field('seats'), '1'),
    ];
    expect(rowOf(mapping, person, client, NOW)).toEqual({
      cells: {
        city: 'Harwick',
        trips: 12,
        trips_text: '12',
        born: '1980-02-29',
        news: true,
        stops: ['Fenwater', 'Marrow Bay'],
        stops_text: 'Fenwater; Marrow Bay',
        phone: '+447700900123',
        met: '2026-11-26',
        tags: ['vip'],
        note: 'Anna of Harwick',
        plan: 'basic',
        seats: 1,
      },
      problems: [],
    });
  });

  test('leaves out what does not fit, and says why', () => {
    const person = known({
      town: { type: 'text', value: 'Harwick' },
      card: { type: 'text', value: '123456789012345678' },
    });
    const { cells, problems } = rowOf(
      [column('n', 'number', field('town')), column('card', 'number', field('card'))],
      person,
      client,
      NOW,
    );
    expect(cells).toEqual({});
    expect(problems).toEqual([
      { column: 'n', reason: '“Harwick” is not a number' },
      {
        column: 'card',
        reason: '“123456789012345678” has more digits than a number carries; map it as text',
      },
    ]);
  });

  test('a number that is taken is the number that was written', () => {
    fc.assert(
      fc.property(fc.integer({ min: -999_999_999_999_999, max: 999_999_999_999_999 }), (number) => {
        expect(convert(String(number), 'number')).toEqual({
          ok: true,
          value: number === 0 ? Number(String(number)) : number,
        });
      }),
    );
  });
});

test('what will not work in a mapping is found before anything goes out', () => {
  const theirs = [
    { name: 'email', type: 'text', required: true },
    { name: 'age', type: 'number', required: false },
  ] as const;
  const mapping = [
    column('age', 'text', field('birthday')),
    column('shoe', 'number', field('town')),
    column('gone', 'text', field('nothing')),
    column('seats', 'number', field('seats'), 'many'),
  ];
  const found = mappingFindings(mapping, { birthday: 'date', town: 'text', seats: 'number' }, theirs);
  expect(
    found.map(({ stops, column: name, reason }) => `${stops ? 'stops' : 'may'} ${name}: ${reason}`),
  ).toEqual([
    'stops age: The other side takes a number here, and gets text.',
    'stops shoe: The other side has no such column.',
    'may shoe: “town” is text: what is not a number is left out.',
    'stops gone: The other side has no such column.',
    'stops gone: The client has no field “nothing”.',
    'stops seats: The other side has no such column.',
    'stops seats: What goes out otherwise: “many” is not a number.',
    'stops email: The other side needs this column, and nothing goes into it.',
  ]);
  expect(mappingFindings([column('town', 'text', field('town'))], { town: 'text' }, null)).toEqual([]);
  expect(
    Mapping.safeParse([column('a', 'text', field('town')), column('a', 'text', field('town'))]).error
      ?.issues[0]?.message,
  ).toBe('the column “a” is filled twice');
});

describe('a webhook', () => {
  test('is a CloudEvent with the row, or the body that was written for it', () => {
    const settings = { address: 'https://hooks.example/in' };
    expect(webhook.next(settings as never, parcel({ city: 'Harwick' }), [])).toMatchObject({
      kind: 'call',
      call: {
        method: 'POST',
        address: settings.address,
        body: {
          specversion: '1.0',
          id: 'd1',
          type: 'person.changed',
          time: '2026-11-26T12:00:00.000Z',
          data: { city: 'Harwick' },
        },
      },
    });
    const person = known({ crossings: { type: 'number', value: 12 } });
    expect(
      webhook.next(
        { ...settings, body: { trips: '{{ person.crossings }}' } } as never,
        parcel({}, { person }),
        [],
      ),
    ).toMatchObject({
      call: { body: { trips: 12 } },
    });
    expect(webhook.next(settings as never, parcel({}), [{ status: 202, body: null }])).toEqual({
      kind: 'done',
      theirId: null,
      words: 'taken, 202',
    });
  });
});

test('rows are appended, or written by their key, which has to be known', () => {
  const address = 'https://sheet.example/sheets/a/rows/';
  expect(rows.next({ address } as never, parcel({ a: 1 }), [])).toMatchObject({
    call: { method: 'POST', headers: { 'idempotency-key': 'd1' } },
  });
  expect(
    rows.next({ address, key: 'email' } as never, parcel({ email: 'a/b@example.org' }), []),
  ).toMatchObject({
    call: { method: 'PUT', address: 'https://sheet.example/sheets/a/rows/a%2Fb%40example.org' },
  });
  expect(rows.next({ address, key: 'email' } as never, parcel({}), [])).toEqual({
    kind: 'refused',
    reason: 'nothing is known for “email”, which names the person’s row',
  });
});

describe('a contact', () => {
  const settings = contact.settings.parse({ address: 'https://crm.example/contacts', findBy: 'email' });
  /** A CRM that others use as well: `meddle` may make or remove the contact before any call. */
  const crm = (begin: 'there' | 'not there', meddle: ('make' | 'remove' | null)[]) => {
    let made = begin === 'there' ? 1 : 0;
    const contacts = new Map<string, Record<string, unknown>>(
      begin === 'there' ? [['1', { email: 'a@example.org' }]] : [],
    );
    const make = () => {
      if ([...contacts.values()].some(({ email }) => email === 'a@example.org')) return false;
      contacts.set(String(++made), { email: 'a@example.org' });
      return true;
    };
    let calls = 0;
    const answer = ({ method, address, body }: Call): Reply => {
      const meddled = meddle[calls++];
      if (meddled === 'make') make();
      if (meddled === 'remove') contacts.clear();
      const id = new URL(address).pathname.split('/')[2];
      if (method === 'GET')
        return { status: 200, body: [...contacts].map(([each, cells]) => ({ id: each, ...cells })) };
      if (method === 'POST') {
        if (!make()) return { status: 409, body: null };
        Object.assign(contacts.get(String(made))!, body);
        return { status: 201, body: { id: String(made) } };
      }
      if (!contacts.has(id!)) return { status: 404, body: null };
      Object.assign(contacts.get(id!)!, body);
      return { status: 200, body: { id } };
    };
    return { contacts, answer };
  };
  const deliver = (sent: Parcel, answer: (call: Call) => Reply) => {
    const replies: Reply[] = [];
    const methods: string[] = [];
    for (;;) {
      const move = contact.next(settings as never, sent, replies);
      if (move.kind !== 'call') return { move, methods };
      methods.push(move.call.method);
      replies.push(answer(move.call));
      if (replies.length > 10) throw new Error('it does not end');
    }
  };
  const row = { email: 'a@example.org', town: 'Harwick' };

  test.each([
    ['is found and changed', 'there', null, [], ['GET', 'PATCH'], 'changed contact 1'],
    ['is made where there is none', 'not there', null, [], ['GET', 'POST'], 'made contact 1'],
    ['is changed by its id', 'there', '1', [], ['PATCH'], 'changed contact 1'],
    ['that is gone is made anew', 'not there', '7', [], ['PATCH', 'GET', 'POST'], 'made contact 1'],
    [
      'that somebody else makes meanwhile is changed',
      'not there',
      null,
      [null, 'make'],
      ['GET', 'POST', 'GET', 'PATCH'],
      'changed contact 1',
    ],
  ] as const)('%s', (_what, begin, theirId, meddle, methods, words) => {
    const { contacts, answer } = crm(begin, [...meddle]);
    const outcome = deliver(parcel(row, { theirId }), answer);
    expect(outcome.methods).toEqual(methods);
    expect(outcome.move).toMatchObject({ kind: 'done', words });
    expect([...contacts.values()]).toEqual([row]);
  });

  test('ends, never makes a second one, and is right when it says so, whatever others do meanwhile', () => {
    const meddling = fc.array(fc.constantFrom<'make' | 'remove' | null>('make', 'remove', null), {
      maxLength: 6,
    });
    fc.assert(
      fc.property(
        fc.constantFrom('there' as const, 'not there' as const),
        fc.option(fc.constantFrom('1', '7')),
        meddling,
        (begin, theirId, meddle) => {
          const { contacts, answer } = crm(begin, meddle);
          const { move } = deliver(parcel(row, { theirId }), answer);
          expect(contacts.size).toBeLessThan(2);
          if (move.kind === 'done') expect(contacts.get(move.theirId!)).toEqual(row);
        },
      ),
    );
  });

  test('an answer that makes no sense may pass; what cannot be found by anything will not', () => {
    expect(deliver(parcel(row), () => ({ status: 200, body: null })).move).toEqual({
      kind: 'unclear',
      reason: 'its answer holds no list of contacts',
    });
    expect(deliver(parcel({ town: 'Harwick' }), () => ({ status: 200, body: [] })).move.kind).toBe('refused');
  });
});

describe('a file of everybody', () => {
  test.each([
    ['Ärzte & Co', 'arzte-co-2026-11-26.csv'],
    ['../../etc/passwd', 'etc-passwd-2026-11-26.csv'],
    ['船', 'people-2026-11-26.csv'],
  ])('%s is called %s in a folder', (name, called) => expect(fileNameOn(name, '2026-11-26')).toBe(called));
  test('cells are text: lists parted, truths spoken, formulas defused, numbers and telephone numbers as they are', () => {
    const mapping = ['a', 'b', 'c', 'd', 'e'].map((to) => ({
      to,
      as: 'text' as const,
      origin: { from: 'text' as const, text: '' },
    }));
    expect(headLine(mapping)).toBe('a,b,c,d,e\r\n');
    expect(
      rowLine(mapping, { cells: { a: ['x', 'y'], b: true, c: '=1+1', d: '+447700900144' }, problems: [] }),
    ).toBe("x; y,yes,'=1+1,+447700900144,\r\n");
  });
  test('the day stands in its address', () => {
    expect(addressOn('https://drop.example.org/people-DATE.csv', '2026-11-26')).toBe(
      'https://drop.example.org/people-2026-11-26.csv',
    );
  });
});
