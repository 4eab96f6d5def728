import fc from 'fast-check';
import { guessIncoming, leavesOf, momentOf, readIncoming, IncomingMapping } from '../src/sync/incoming';
import {
  arrived,
  hearing,
  overrule,
  saysMore,
  settled,
  type Overruled,
  type StandsThere,
  type Winner,
} from '../src/sync/settle';

const text = (value: string) => ({ type: 'text' as const, value });

describe('who wins', () => {
  test.each([
    ['ours', 'keep', 'keep'],
    ['theirs', 'take', 'take'],
    ['newest', 'take', 'keep'],
  ] as const)('%s: theirs of later is %s, of before %s', (winner, later, before) => {
    const ours = { value: text('A'), at: 10 };
    expect(settled(winner, ours, { value: text('B'), at: 11 })).toBe(later);
    expect(settled(winner, ours, { value: text('B'), at: 9 })).toBe(before);
    expect(settled(winner, ours, { value: text('A'), at: 11 })).toBe('same');
    expect(settled(winner, null, { value: text('B'), at: 1 })).toBe('take');
  });
  test('what is chosen among several is the same in any order', () => {
    const several = (value: string[]) => ({ type: 'several of' as const, value });
    expect(
      settled('theirs', { value: several(['b', 'a']), at: 1 }, { value: several(['a', 'b']), at: 2 }),
    ).toBe('same');
  });
  test('a value that comes back again and again is let be, for an hour', () => {
    let before: Overruled | undefined;
    const counts = [1, 2, 3].map((now) => {
      const next = overrule(before, '07700', now);
      before = next ?? before;
      return next?.times ?? null;
    });
    expect(counts).toEqual([1, 2, null]);
    expect(overrule(before, '07701', 4)).toMatchObject({ times: 1 });
    expect(overrule(before, '07700', 4_000_000)).toMatchObject({ times: 1 });
  });
});

/**
 * Two systems that tell each other of their changes, over lines on which everything takes as long as it
 * likes.
 */
class Pair {
  ours = { value: 'start', at: 0 };
  theirs = { value: 'start', at: 0 };
  stands: StandsThere = { c: { cell: 'start' } };
  overruled: Overruled | undefined;
  /** What is to go out, and what has: `landed` once it stands over there. */
  waits = false;
  flight: { cell: string; since: number; landed: boolean } | null = null;
  /** What they tell us of, in order. */
  told: { value: string; at: number }[] = [];
  calls = 0;
  now = 0;
  /** They came back with the same value too often, and were let be. */
  insists = false;
  constructor(
    readonly winner: Winner,
    /** What they make of what we put there. */
    readonly makes: (value: string) => string = (value) => value,
  ) {}

  change(side: 'ours' | 'theirs', value: string): void {
    this[side] = { value, at: ++this.now };
    if (side === 'ours') this.waits = true;
    else this.told.push({ value, at: this.now });
  }
  /** One thing that can happen next, if it can. */
  step(what: 'send' | 'land' | 'answer' | 'hear'): boolean {
    this.now++;
    switch (what) {
      case 'send':
        if (!this.waits || this.flight) return false;
        this.waits = false;
        if (!saysMore({ c: this.ours.value }, this.stands)) return true;
        this.calls++;
        this.flight = { cell: this.ours.value, since: this.now, landed: false };
        return true;
      case 'land': {
        if (!this.flight || this.flight.landed) return false;
        this.flight.landed = true;
        const value = this.makes(this.flight.cell);
        if (value !== this.theirs.value) {
          this.theirs = { value, at: this.now };
          this.told.push(this.theirs);
        }
        return true;
      }
      case 'answer':
        if (!this.flight?.landed) return false;
        this.stands = arrived(this.stands, { c: this.flight.cell }, this.flight.since, this.now);
        this.flight = null;
        return true;
      case 'hear': {
        const next = this.told.shift();
        if (!next) return false;
        const { news, standing } = hearing(
          next.value,
          this.stands.c,
          this.flight ? [this.flight.cell] : [],
          this.now,
        );
        this.stands = { c: standing };
        if (!news) return true;
        const outcome = settled(
          this.winner,
          { value: text(this.ours.value), at: this.ours.at },
          { value: text(next.value), at: next.at },
        );
        if (outcome === 'take') {
          this.ours = { value: next.value, at: next.at };
          // The change is noted like any other.
          this.waits = true;
        }
        if (outcome === 'keep') {
          const again = overrule(this.overruled, next.value, this.now);
          if (again) {
            this.overruled = again;
            this.waits = true;
          } else this.insists = true;
        } else this.overruled = undefined;
        return true;
      }
    }
  }
  /** Goes on until nothing is left to happen; false where it never ends. */
  settle(): boolean {
    for (let at = 0; at < 500; at++)
      if (!(['hear', 'land', 'answer', 'send'] as const).some((what) => this.step(what))) return true;
    return false;
  }
}
const doing = fc.array(
  fc.oneof(
    {
      weight: 2,
      arbitrary: fc.record({
        side: fc.constantFrom('ours' as const, 'theirs' as const),
        value: fc.constantFrom('A', 'B', 'C'),
      }),
    },
    {
      weight: 5,
      arbitrary: fc.constantFrom('send' as const, 'land' as const, 'answer' as const, 'hear' as const),
    },
  ),
  { maxLength: 30 },
);

describe('two systems that tell each other', () => {
  test.each(['ours', 'theirs', 'newest'] as const)(
    'settle on one value and are still, whatever happens in which order: %s wins',
    (winner) => {
      fc.assert(
        fc.property(doing, (all) => {
          const pair = new Pair(winner);
          for (const each of all) {
            if (typeof each === 'string') pair.step(each);
            else pair.change(each.side, each.value);
          }
          expect(pair.settle()).toBe(true);
          const { calls } = pair;
          if (!pair.insists) expect(pair.theirs.value).toBe(pair.ours.value);
          // Nothing goes on by itself.
          pair.settle();
          expect(pair.calls).toBe(calls);
        }),
        { numRuns: 2_000 },
      );
    },
  );
  test.each([
    ['ours', 'A'],
    ['theirs', 'B'],
    ['newest', 'B'],
  ] as const)('both changed before either has heard: %s wins', (winner, value) => {
    const orders = fc.array(
      fc.constantFrom('send' as const, 'land' as const, 'answer' as const, 'hear' as const),
      { maxLength: 12 },
    );
    fc.assert(
      fc.property(orders, (order) => {
        const pair = new Pair(winner);
        pair.change('ours', 'A');
        pair.change('theirs', 'B');
        for (const what of order) pair.step(what);
        expect(pair.settle()).toBe(true);
        expect([pair.ours.value, pair.theirs.value]).toEqual([value, value]);
      }),
    );
  });
  test('one that writes every value in its own way is not played with for ever', () => {
    const pair = new Pair('ours', (value) => `(${value})`);
    pair.change('ours', 'A');
    expect(pair.settle()).toBe(true);
    expect(pair.ours.value).toBe('A');
    expect(pair.calls).toBeLessThan(5);
  });
});

describe('a body of another system', () => {
  const body = {
    event: 'contact.changed',
    changed_at: '2026-11-26T10:00:00Z',
    contact: {
      id: 'C-1',
      email: 'ada@example.org',
      name: 'Ada Tallow',
      town: 'Harwick',
      trips: 4,
      tags: ['a', 'b'],
      note: null,
      nested: { deep: true },
    },
  };
  const world = {
    country: 'GB',
    language: 'en',
    now: 0,
    zone: 'UTC',
    days: 'any',
    dayOrder: 'day first',
    ours: false,
  } as const;
  test('is taken apart into what can be pointed at', () => {
    expect(leavesOf(body).map(({ path }) => path)).toEqual([
      'event',
      'changed_at',
      'contact.id',
      'contact.email',
      'contact.name',
      'contact.town',
      'contact.trips',
      'contact.tags',
      'contact.note',
      'contact.nested.deep',
    ]);
    expect(leavesOf('text')).toEqual([]);
  });
  test('is guessed by its names: who it is, when, and what is known already', () => {
    const known = { fields: [{ key: 'town', name: 'Town', type: 'text' as const }], lines: [] };
    expect(guessIncoming(body, known, world, true)).toEqual({
      who: [
        { by: 'their id', from: 'contact.id' },
        { by: 'email', from: 'contact.email' },
      ],
      changedAt: 'changed_at',
      parts: [
        { from: 'contact.email', into: { as: 'field', field: 'email', type: 'email' }, wins: 'newest' },
        { from: 'contact.name', into: { as: 'whole name' }, wins: 'theirs' },
        { from: 'contact.town', into: { as: 'field', field: 'town', type: 'text' }, wins: 'newest' },
        { from: 'contact.tags', into: { as: 'tags' }, wins: 'theirs' },
      ],
    });
  });
  test('is read as the mapping says; what is not there says nothing, null says that there is nothing', () => {
    const mapping = IncomingMapping.parse({
      who: [{ by: 'email', from: 'contact.email' }],
      changedAt: 'changed_at',
      parts: [
        { from: 'contact.name', into: { as: 'whole name' } },
        { from: 'contact.town', into: { as: 'field', field: 'town', type: 'text' }, wins: 'ours' },
        { from: 'contact.note', into: { as: 'field', field: 'note', type: 'text' } },
        { from: 'contact.gone', into: { as: 'field', field: 'gone', type: 'text' } },
        { from: 'contact.nested', into: { as: 'field', field: 'nested', type: 'text' } },
        { from: 'contact.tags', into: { as: 'tags' } },
      ],
    });
    expect(readIncoming(mapping, body)).toEqual({
      who: [{ by: 'email', value: 'ada@example.org' }],
      at: Date.parse('2026-11-26T10:00:00Z'),
      names: [
        { what: 'first name', value: 'Ada', wins: 'theirs' },
        { what: 'last name', value: 'Tallow', wins: 'theirs' },
      ],
      tags: ['a', 'b'],
      fields: { town: { given: 'Harwick', wins: 'ours' }, note: { given: null, wins: 'theirs' } },
      passedOver: ['contact.nested: it is neither one value nor a list of texts'],
    });
  });
  test('no two parts fill the same thing', () => {
    const part = { from: 'a', into: { as: 'first name' } };
    expect(
      IncomingMapping.safeParse({ who: [{ by: 'email', from: 'e' }], parts: [part, { ...part, from: 'b' }] })
        .error?.issues[0]?.message,
    ).toBe('first name is filled twice');
  });
  test.each([
    ['2026-11-26T10:00:00Z', Date.parse('2026-11-26T10:00:00Z')],
    [1_764_150_000, 1_764_150_000_000],
    ['1764150000000', 1_764_150_000_000],
    ['soon', null],
    [7, null],
  ])('%s as a moment', (value, at) => expect(momentOf(value)).toBe(at));
});
