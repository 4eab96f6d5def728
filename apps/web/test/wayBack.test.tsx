import type { IncomingMapping } from '@dart-loop/core/sync/incoming';
import { addressOf, exampleOf, operationsOf } from '../features/api/operations';
import {
  NOTHING_READ,
  linesOf,
  valueOf,
  withChangedAt,
  withInto,
  withWho,
} from '../features/webhooks/reading';

const town = { as: 'field', field: 'town', type: 'text' } as const;

describe('what the parts of a call are', () => {
  test('each place is filled by one part, and keeps who wins when another is pointed at', () => {
    const first = withInto(NOTHING_READ, 'a.town', town);
    expect(first.parts).toEqual([{ from: 'a.town', into: town, wins: 'newest' }]);
    const ours: IncomingMapping = { ...first, parts: [{ ...first.parts[0]!, wins: 'ours' }] };
    expect(withInto(ours, 'a.town', { ...town, field: 'city' }).parts).toEqual([
      { from: 'a.town', into: { ...town, field: 'city' }, wins: 'ours' },
    ]);
    expect(withInto(ours, 'b.town', town).parts).toEqual([{ from: 'b.town', into: town, wins: 'newest' }]);
    expect(withInto(ours, 'a.town', null).parts).toEqual([]);
    // When a name was changed here nobody knows.
    expect(withInto(NOTHING_READ, 'a.name', { as: 'first name' }).parts[0]!.wins).toBe('theirs');
  });
  test('who it is: each way once, the surest first', () => {
    const all = withWho(
      withWho(withWho(NOTHING_READ, 'a.phone', 'phone'), 'a.email', 'email'),
      'a.id',
      'their id',
    );
    expect(all.who.map(({ by }) => by)).toEqual(['their id', 'email', 'phone']);
    expect(withWho(all, 'b.email', 'email').who.find(({ by }) => by === 'email')).toEqual({
      by: 'email',
      from: 'b.email',
    });
    expect(withWho(all, 'a.id', null).who.map(({ by }) => by)).toEqual(['email', 'phone']);
  });
  test('a line for each part of the example, and for what the mapping names beside it', () => {
    const mapping = withChangedAt(withInto(NOTHING_READ, 'gone', town), 'at');
    const example = { at: '', guess: NOTHING_READ, leaves: [{ path: 'at', value: '2026-11-26' }] };
    expect(
      linesOf(example, mapping).map(({ path, value, isChangedAt }) => [path, value, isChangedAt]),
    ).toEqual([
      ['at', '2026-11-26', true],
      ['gone', undefined, false],
    ]);
    expect([undefined, null, '', ['a', 'b'], 'x'.repeat(99)].map(valueOf)).toEqual([
      'not in the example',
      'nothing',
      'empty',
      'a, b',
      `${'x'.repeat(59)}…`,
    ]);
  });
});

describe('an operation as it is tried', () => {
  const [operation] = operationsOf({
    paths: {
      '/people/{personId}/loops': {
        get: {
          operationId: 'x',
          summary: 'X',
          parameters: [
            { name: 'personId', in: 'path', schema: {} },
            { name: 'cursor', in: 'query', schema: {} },
          ],
        },
      },
    },
  });
  test('its address is filled in, what is empty left out', () => {
    expect(operation).toMatchObject({ method: 'GET', path: '/people/{personId}/loops' });
    expect(addressOf(operation!, { personId: 'a b', cursor: '' })).toBe('/v1/people/a%20b/loops');
    expect(addressOf(operation!, { personId: 'p', cursor: '1-2' })).toBe('/v1/people/p/loops?cursor=1-2');
  });
  test('its body begins with an example: what is needed, and what has one', () => {
    expect(
      exampleOf({
        type: 'object',
        required: ['by', 'n'],
        properties: {
          by: { type: 'object', examples: [{ email: 'mira@example.org' }] },
          n: { type: 'number' },
          name: { anyOf: [{ type: 'string' }, { type: 'null' }], examples: ['Mira'] },
          left: { type: 'string' },
          list: { type: 'array' },
        },
      }),
    ).toEqual({ by: { email: 'mira@example.org' }, n: 0, name: 'Mira' });
    expect([
      exampleOf({ enum: ['a', 'b'] }),
      exampleOf({ const: 1 }),
      exampleOf({ anyOf: [{ type: 'boolean' }] }),
    ]).toEqual(['a', 1, false]);
  });
});
