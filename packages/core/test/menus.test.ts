import { CHANNELS, menuDifferences, menuProblems } from '../src';

const item = (item: string, label = item) => ({ item, label });

test('menus beyond what a channel takes are refused with a sentence each', () => {
  const { name, menus } = CHANNELS.instagram;
  expect(menuProblems(name, menus, { 'standing menu': [item('hours', 'When are you open?')] })).toEqual([]);
  expect(
    menuProblems(name, menus, {
      'standing menu': ['a', 'b', 'c', 'd', 'e', 'a'].map((each) => item(each)),
      'opening suggestions': [item('long', 'x'.repeat(81))],
      commands: [item('start')],
    }),
  ).toEqual([
    'The standing menu on Instagram takes at most 5 items; there are 6.',
    '“a” stands twice in the standing menu.',
    `“${'x'.repeat(81)}” has 81 characters; the opening suggestions on Instagram takes at most 80.`,
    'Instagram has no commands.',
  ]);
  expect(menuProblems('Telegram', CHANNELS.telegram.menus, { commands: [item('opening-hours')] })[0]).toMatch(
    /small letters, digits and underscores/,
  );
  expect(menuProblems('SMS', CHANNELS.sms.menus, { commands: [] })).toEqual([]);
});

test('a greeting is taken where the channel shows one, within its length', () => {
  const { name, menus } = CHANNELS.messenger;
  expect(menuProblems(name, menus, { greeting: 'x'.repeat(160) })).toEqual([]);
  expect(menuProblems(name, menus, { greeting: 'x'.repeat(161) })).toEqual([
    'The greeting has 161 characters; Messenger takes at most 160.',
  ]);
  expect(menuProblems('Telegram', CHANNELS.telegram.menus, { greeting: 'Hello' })).toEqual([
    'Telegram has no greeting.',
  ]);
  expect(menuDifferences({ greeting: 'Hello' }, { greeting: 'Hello' })).toEqual([]);
  expect(menuDifferences({ greeting: 'Hello' }, { greeting: 'Hi' })).toEqual([
    'The greeting there says “Hi” and not “Hello”.',
  ]);
  expect(menuDifferences({ greeting: 'Hello' }, {})).toEqual(['There is no greeting there.']);
  expect(menuDifferences({}, { greeting: 'Hi' })).toEqual([
    'There is a greeting there, “Hi”, which is not wanted here.',
  ]);
});

test('what a channel has is compared with what is wanted', () => {
  const wanted = { 'standing menu': [item('hours', 'Hours'), item('book', 'Book')] };
  expect(menuDifferences(wanted, wanted)).toEqual([]);
  expect(menuDifferences({}, {})).toEqual([]);
  expect(
    menuDifferences(wanted, { 'standing menu': [item('book', 'Book'), item('hours', 'Hours')] }),
  ).toEqual(['The standing menu there is in another order.']);
  expect(menuDifferences(wanted, { 'standing menu': [item('hours', 'Open'), item('SHOP', 'Shop')] })).toEqual(
    [
      'The standing menu there lacks “Book”.',
      'The standing menu there has “Shop”, which is not wanted here.',
      'The standing menu there says “Open” and not “Hours”.',
    ],
  );
});
