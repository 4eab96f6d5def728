import { sameJson } from '../src/sameJson';

test.each<[unknown, unknown, boolean]>([
  [{ a: 1, b: [2, { c: null }] }, { b: [2, { c: null }], a: 1 }, true],
  [{ a: 1, b: undefined }, { a: 1 }, true],
  [[{ a: undefined }], [{}], true],
  [[1, 2], [2, 1], false],
  [{ a: null }, {}, false],
  [null, undefined, false],
  ['1', 1, false],
  [{ type: 'date', value: '2026-12-01' }, { value: '2026-12-01', type: 'date' }, true],
])('%j and %j', (one, other, same) => {
  expect(sameJson(one, other)).toBe(same);
  expect(sameJson(other, one)).toBe(same);
});
