import { tokenProblem } from '../features/lines/connecting';
import { fieldKey } from '@dart-loop/core/language/slug';
import { ago, whenWords } from '../ui/time';

jest.mock('expo-router', () => ({ Link: 'Link', router: {} }));

test('a token is looked at while it is typed', () => {
  expect(tokenProblem('')).toBeNull();
  expect(tokenProblem(`7001234567:${'A'.repeat(35)}`)).toBeNull();
  expect(tokenProblem('hello')).toMatch(/begins with digits/);
  expect(tokenProblem('7001234567')).toMatch(/comes a colon/);
  expect(tokenProblem('7001234567:abc')).toMatch(/there are 3/);
  expect(tokenProblem(`7001234567:${'!'.repeat(35)}`)).toMatch(/only letters/);
});

test('what is typed as a field becomes a key', () => {
  expect(fieldKey('Party size')).toBe('party_size');
  expect(fieldKey('2nd naïve name!')).toBe('nd_naive_name');
  expect(fieldKey('!!')).toBe('field');
});

test('times are near within a day, then dates', () => {
  const now = Date.parse('2026-11-24T12:00:00Z');
  expect(ago('2026-11-24T11:59:30Z', now)).toBe('just now');
  expect(ago('2026-11-24T11:18:00Z', now)).toBe('42 min');
  expect(ago('2026-11-24T03:00:00Z', now)).toBe('9 h');
  expect(ago('2026-11-17T12:00:00Z', now)).toBe('Tue 17 Nov');
  expect(ago('2024-11-17T12:00:00Z', now)).toBe('17 Nov 2024');
  expect(whenWords(new Date(Date.now() - 5 * 60_000).toISOString())).toBe('5 min ago');
});
