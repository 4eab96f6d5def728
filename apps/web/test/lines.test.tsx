import { fireEvent, screen, waitFor } from '@testing-library/react-native';
import type { LineRow, MenusPage } from '@dart-loop/contract';
import { roleWords } from '../features/accounts/roleWords';
import { capsWords } from '../features/lines/Caps';
import { CONNECTING, tokenProblem } from '../features/lines/connecting';
import { Lines } from '../features/lines/Lines';
import { TestPhone } from '../features/phone/TestPhone';
import { playServer, showScreen, type PlayedServer } from './support/screens';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));
const PATH = '/clients/saltmarsh-ferries/lines';
const row = (more: Partial<LineRow> = {}): LineRow => ({
  id: 7,
  key: 'messenger',
  name: 'Saltmarsh Ferries',
  channel: 'messenger',
  webhook: 'https://loop.example.org/hooks/abc',
  known: {},
  hints: { token: 'b4bb', appSecret: '20ce' },
  trial: false,
  state: 'connected',
  connectedAt: '2026-11-01T08:00:00Z',
  lastHeardAt: new Date().toISOString(),
  lastSentAt: null,
  failingSince: null,
  failure: null,
  notes: [],
  failures: [],
  templates: [],
  caps: { perDay: null, perPerson: null },
  unaskedToday: 0,
  held: 0,
  aside: 0,
  ...more,
});

let server: PlayedServer;
beforeEach(() => (server = playServer()));

type Phone = 'every line' | 'lines for trying out' | null;
const show = (screenOf: React.ReactNode, lines: LineRow[], testPhone: Phone = null) =>
  showScreen(screenOf, server, {
    [PATH]: lines,
    '/session': { account: { id: 1, role: 'owner', grants: [] }, clients: [], testPhone },
  });

describe('the lines of a client', () => {
  test('none is an invitation to connect one', async () => {
    show(<Lines />, []);
    expect(await screen.findByText('No line is connected')).toBeTruthy();
    expect(screen.getByText('Connect a line')).toBeTruthy();
  });

  test('those that fail come first, each with its state, its reason, and what waits', async () => {
    show(<Lines />, [
      row({ id: 1, name: 'Works' }),
      row({
        id: 2,
        name: 'Fails',
        state: 'failing',
        failingSince: new Date(Date.now() - 120_000).toISOString(),
        failure: { reason: 'The access token has expired.', remedy: 'Make a new one.' },
        held: 2,
        aside: 1,
        failures: [{ reason: 'It blocked us.', remedy: 'Ask them.', count: 3, waits: false }],
      }),
    ]);
    expect(await screen.findByText('The access token has expired. Make a new one.')).toBeTruthy();
    const words = JSON.stringify(screen.toJSON());
    expect(words.indexOf('Fails')).toBeLessThan(words.indexOf('Works'));
    expect(
      screen.getByText(/^failing since 2 min ago; .*; 2 messages wait to be sent; 1 message could/),
    ).toBeTruthy();
    expect(screen.getByText('3 failed: ')).toBeTruthy();
    expect(screen.getByText('Not processed (1)')).toBeTruthy();
  });

  test('a test that succeeds is said, one that fails is not said to have succeeded', async () => {
    server.answers[`POST ${PATH}/7/test`] = row();
    show(<Lines />, [row()]);
    fireEvent.press(await screen.findByLabelText('Test Saltmarsh Ferries'));
    expect(await screen.findByText('Saltmarsh Ferries answers, and its webhook points here.')).toBeTruthy();
    screen.unmount();
    server.answers[`POST ${PATH}/7/test`] = row({ failure: { reason: 'No.', remedy: 'Mend it.' } });
    show(<Lines />, [row()]);
    fireEvent.press(await screen.findByLabelText('Test Saltmarsh Ferries'));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    expect(screen.queryByText(/and its webhook points here/)).toBeNull();
  });

  test('one for trying out has neither a webhook nor secrets to show, and is not renewed', async () => {
    show(<Lines />, [row({ trial: true })], 'lines for trying out');
    expect(await screen.findByText(/^For trying out: only the test phone writes to it/)).toBeTruthy();
    expect(screen.queryByText('Webhook address')).toBeNull();
    expect(screen.queryByText(/app secret/)).toBeNull();
    expect(screen.queryByLabelText('Renew Saltmarsh Ferries')).toBeNull();
    fireEvent.press(screen.getByLabelText('Disconnect Saltmarsh Ferries'));
    expect(await screen.findByText(/^The line is gone, and messages that still wait/)).toBeTruthy();
  });

  test('where there is no test phone, none is offered', async () => {
    show(<Lines />, []);
    fireEvent.press(await screen.findByText('Telegram bot'));
    expect(await screen.findByLabelText('Bot token')).toBeTruthy();
    expect(screen.queryByText('For trying out')).toBeNull();
  });

  test('where there is one, a line is made by choosing its channel', async () => {
    server.answers[`POST ${PATH}/trial`] = row({ id: 9, name: 'halfmoon_9_bot', trial: true });
    show(<Lines />, [], 'lines for trying out');
    fireEvent.press(await screen.findByText('Telegram bot'));
    fireEvent.press(await screen.findByText('For trying out'));
    expect(screen.getByText(/^It behaves as Telegram does/)).toBeTruthy();
    fireEvent.press(screen.getByText('Make the line'));
    expect(await screen.findByText('halfmoon_9_bot is ready. Write to it from the test phone.')).toBeTruthy();
    expect(server.asked[0]).toEqual({ what: `POST ${PATH}/trial`, body: { channel: 'telegram' } });
  });

  test('the test phone offers lines for trying out alone, and says where they are made', async () => {
    show(<TestPhone />, [row()], 'lines for trying out');
    expect(await screen.findByText('Make a line for trying out')).toBeTruthy();
    expect(server.asked).toEqual([]);
  });
});

describe('menus and the greeting', () => {
  const page = (more: Partial<MenusPage> = {}): MenusPage => ({
    wanted: {},
    there: {},
    problem: null,
    differences: [],
    heard: [],
    ...more,
  });
  const open = async () => fireEvent.press(await screen.findByLabelText('Menus of Saltmarsh Ferries'));

  test('a greeting is put on the channel as it was typed, without what is left empty', async () => {
    server.answers[`GET ${PATH}/7/menus`] = page();
    server.answers[`PUT ${PATH}/7/menus`] = page({ wanted: { greeting: 'Welcome aboard.' } });
    show(<Lines />, [row()]);
    await open();
    fireEvent.changeText(await screen.findByLabelText('Greeting'), ' Welcome aboard. ');
    expect(screen.getByText('Not yet on Messenger.')).toBeTruthy();
    fireEvent.press(screen.getByLabelText('Add entry to the standing menu'));
    fireEvent.press(screen.getByText('Save to Messenger'));
    expect(await screen.findByText('Messenger has exactly this.')).toBeTruthy();
    expect(server.asked.at(-1)).toEqual({
      what: `PUT ${PATH}/7/menus`,
      body: { greeting: 'Welcome aboard.' },
    });
  });

  test('what is too long is said before it is sent; what differs there is said too', async () => {
    server.answers[`GET ${PATH}/7/menus`] = page({ differences: ['There is no greeting there.'] });
    show(<Lines />, [row()]);
    await open();
    expect(await screen.findByText('There is no greeting there.')).toBeTruthy();
    fireEvent.changeText(screen.getByLabelText('Greeting'), 'x'.repeat(161));
    expect(screen.getByText('The greeting has 161 characters; Messenger takes at most 160.')).toBeTruthy();
  });

  test('a number has none', async () => {
    show(<Lines />, [row({ channel: 'sms', key: 'sms' })]);
    expect(await screen.findByLabelText('Test Saltmarsh Ferries')).toBeTruthy();
    expect(screen.queryByLabelText('Menus of Saltmarsh Ferries')).toBeNull();
  });
});

test.each<[typed: string, problem: RegExp | null]>([
  ['', null],
  [`7001234567:${'A'.repeat(35)}`, null],
  ['hello', /begins with digits/],
  ['7001234567', /comes a colon/],
  ['7001234567:AAE', /there are 3/],
  ['7001234567:A', /there is 1\./],
  [`7001234567:${'A'.repeat(34)}!`, /only letters, digits/],
])('a bot’s token that is typed as “%s”', (typed, problem) => {
  if (problem) expect(tokenProblem(typed)).toMatch(problem);
  else expect(tokenProblem(typed)).toBeNull();
});

test('every field that connects a line says where it is found, and its shape while it is typed', () => {
  for (const { fields } of Object.values(CONNECTING))
    for (const { hint } of fields) expect(hint).toMatch(/\.$/);
  const [appId, appSecret] = CONNECTING.messenger.fields;
  expect(appId!.problem!('12 3')).toBe('It is a number of 5 to 20 digits, without spaces.');
  expect(appSecret!.problem!('xyz')).toBe('It consists of digits and the letters a to f.');
  expect(appSecret!.problem!('ab')).toBe('It has 32 characters; there are 2.');
  expect(appSecret!.problem!('ab'.repeat(16))).toBeNull();
});

test('limits of a line and what an operator is given, in words', () => {
  expect(capsWords({ caps: { perDay: null, perPerson: null }, unaskedToday: 3 })).toBe('No sending limits.');
  expect(capsWords({ caps: { perDay: 500, perPerson: 2 }, unaskedToday: 3 })).toBe(
    '3 of 500 unasked messages sent today, at most 2 a day to one person.',
  );
  expect(roleWords('builder', [])).toBe('Builder');
  expect(roleWords('operator', ['brief'])).toBe('Operator with the brief');
  expect(roleWords('operator', ['people', 'bookings', 'brief'])).toBe(
    'Operator with all people, bookings and the brief',
  );
});
