import { entryProblem } from '../src/people/briefEntries';
import { saidBrief, type EntryType } from '../src/people/client';
import { amountWords, currencyOf } from '../src/people/currency';

const where = { country: 'GB', now: Date.UTC(2026, 11, 1), zone: 'Europe/London' };

test.each<[EntryType, string, string | null]>([
  ['text', 'anything at all', null],
  ['date', '', null],
  ['date', '24 December 2026', null],
  ['date', '2026-12-24', null],
  ['date', 'soon', 'is to be a date, such as “tomorrow”'],
  ['time', '09:30', null],
  ['time', 'early', 'is to be a time of day, such as “half past six”'],
  ['number', '12', null],
  ['number', 'some', 'is to be a number, such as “3”'],
  ['email', 'desk@example.org', null],
  ['email', 'desk at', 'is to be an email address, such as “name@example.org”'],
  ['phone', '01632 960144', null],
  ['page address', 'https://example.org/terms', null],
])('an entry of the kind %s: “%s”', (type, said, problem) => {
  const found = entryProblem(type, said, where);
  if (problem === null) expect(found).toBeNull();
  else expect(found).toMatch(/^is to be (a|an) [a-z ]+, such as “.+”$/);
});

test('amounts in the currency of a country', () => {
  expect(['GB', 'US', 'CH', 'DE', 'XX'].map(currencyOf)).toEqual(['GBP', 'USD', 'CHF', 'EUR', 'EUR']);
  expect(amountWords(1250.5, 'GBP')).toBe('£1,250.50');
  expect(amountWords(12, 'EUR')).toBe('€12');
  expect(amountWords(12.5, 'EUR', 'de').replace(/\s/g, ' ')).toBe('12,50 €');
});

test('an entry that is a file names one of the client’s, and is merged as its address', () => {
  expect(entryProblem('file', '{{ file.menu }}', where)).toBeNull();
  expect(entryProblem('file', 'menu.pdf', where)).toBe('is to be one of the client’s files');
  const files = { menu: 'https://loop.example.org/files/menu.pdf' };
  const brief = { menu: '{{ file.menu }}', gone: '{{ file.gone }}', phone: '+44 1632 960188' };
  expect(saidBrief({ brief, files })).toEqual({ ...brief, menu: files.menu, gone: '' });
});
