import { shownName, shownValue } from '../src/people/shownName';

test('a telephone number is shown in groups, everything else as it is', () => {
  expect(shownName('+447700900036')).toBe('+44 7700 900036');
  expect(shownName('+14155550132')).toBe('+1 415 555 0132');
  // The same the second time, from what was kept.
  expect(shownName('+447700900036')).toBe('+44 7700 900036');
  for (const each of ['Mira Tidewell', '@mira', 'mira@example.org', '447700900036', '+999999999999999', ''])
    expect(shownName(each)).toBe(each);
});

test('of values only a telephone number is shown in groups: a text that looks like one may be edited as it is', () => {
  expect(shownValue({ type: 'phone', value: '+447700900036' })).toBe('+44 7700 900036');
  expect(shownValue({ type: 'text', value: '+447700900036' })).toBe('+447700900036');
  expect(shownValue({ type: 'yes/no', value: true })).toBe('yes');
});
