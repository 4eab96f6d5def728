import { fireEvent, render, screen, waitFor } from '@testing-library/react-native';
import type { LineRow, PhoneMessage, PhonePage } from '@dart-loop/contract';
import { Bubble } from '../features/phone/Bubble';
import { LeadForm } from '../features/phone/LeadForm';
import { TestPhone } from '../features/phone/TestPhone';
import { ThemeProvider } from '../ui/theme';
import { playServer, showScreen, type PlayedServer } from './support/screens';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));

const message = (more: Partial<PhoneMessage> = {}): PhoneMessage => ({
  id: 'm1',
  from: 'line',
  text: 'Which crossing?',
  at: '2026-12-01T10:00:00Z',
  buttons: [],
  as: 'none',
  ...more,
});
const bubble = (more: Partial<PhoneMessage>, onTap = jest.fn()) => {
  render(
    <ThemeProvider>
      <Bubble message={message(more)} onTap={onTap} />
    </ThemeProvider>,
  );
  return onTap;
};

describe('a message as a phone shows it', () => {
  test('a tap brings back what stands behind the button, not its words', () => {
    const onTap = bubble({ as: 'buttons', buttons: [{ text: 'Saint Orrin', data: 'ref-1' }] });
    fireEvent.press(screen.getByLabelText('Saint Orrin'));
    expect(onTap).toHaveBeenCalledWith('ref-1');
  });

  test('a list stands behind the button that opens it, and closes with the choice', () => {
    const rows = [{ text: 'Saint Orrin', data: 'ref-1', note: '40 minutes' }];
    const onTap = bubble({ as: 'list', opens: 'Crossings', buttons: rows });
    expect(screen.queryByText('Saint Orrin')).toBeNull();
    fireEvent.press(screen.getByLabelText('Crossings'));
    fireEvent.press(screen.getByLabelText('Saint Orrin: 40 minutes'));
    expect(onTap).toHaveBeenCalledWith('ref-1');
    expect(screen.queryByText('Saint Orrin')).toBeNull();
  });

  test('a picture of ours is named by its address; one of theirs is said in words', () => {
    bubble({ media: 'https://loop.example.org/files/map.png', text: '' });
    expect(screen.getByText('▣ https://loop.example.org/files/map.png')).toBeTruthy();
    screen.unmount();
    bubble({ from: 'person', media: 'voice note', text: '' });
    expect(screen.getByText('(voice note)')).toBeTruthy();
  });
});

test('a lead form is submitted with what was filled in, readable or not', async () => {
  const act = jest.fn(async () => true);
  render(
    <ThemeProvider>
      <LeadForm adId="ad" act={act} />
    </ThemeProvider>,
  );
  fireEvent.changeText(screen.getByLabelText('Id of the form'), '12');
  expect(screen.getByText('It is 5 to 20 digits.')).toBeTruthy();
  fireEvent.press(screen.getByText('Submit the form'));
  expect(act).not.toHaveBeenCalled();
  fireEvent.changeText(screen.getByLabelText('Id of the form'), '70010');
  fireEvent.changeText(screen.getByLabelText('Phone number'), '+447700900123');
  fireEvent.press(screen.getByLabelText('The platform does not let the line read it'));
  fireEvent.press(screen.getByText('Submit the form'));
  expect(await screen.findByText(/^Submitted\./)).toBeTruthy();
  expect(act).toHaveBeenCalledWith({
    do: 'lead form',
    adId: 'ad',
    form: '70010',
    answers: { phone_number: '+447700900123' },
    readable: false,
  });
});

describe('the test phone', () => {
  const PATH = '/clients/saltmarsh-ferries';
  const line = (more: Partial<LineRow>) => ({
    channel: 'telegram',
    state: 'connected',
    trial: false,
    ...more,
  });
  const page = (more: Partial<PhonePage> = {}): PhonePage => ({
    messages: [],
    posts: [],
    ads: [],
    greeting: null,
    menu: [],
    blocked: false,
    ...more,
  });
  let server: PlayedServer;
  beforeEach(() => (server = playServer()));
  const show = (pageOf: PhonePage) =>
    showScreen(<TestPhone />, server, {
      '/session': { account: { id: 1, role: 'owner', grants: [] }, clients: [], testPhone: 'every line' },
      [`${PATH}/lines`]: [line({ id: 1, name: 'Fails', state: 'failing' }), line({ id: 2, name: 'Works' })],
      [`${PATH}/test-phone?line=2&who=64001`]: pageOf,
    });

  test('begins with somebody new, on a line that works; the greeting stands before the first message', async () => {
    server.answers[`POST ${PATH}/test-phone/somebody`] = { who: '64001' };
    show(page({ greeting: 'Welcome aboard.' }));
    expect(await screen.findByText('Welcome aboard.')).toBeTruthy();
    expect(server.asked[0]).toEqual({ what: `POST ${PATH}/test-phone/somebody`, body: { line: 2 } });
  });

  test('what is written goes to the line; what was not taken stays in the field', async () => {
    server.answers[`POST ${PATH}/test-phone/somebody`] = { who: '64001' };
    server.answers[`POST ${PATH}/test-phone`] = page({
      messages: [message({ from: 'person', text: 'hello' })],
    });
    show(page());
    const field = await screen.findByLabelText('Write as the customer');
    fireEvent.changeText(field, ' hello ');
    fireEvent.press(screen.getByText('Send'));
    await waitFor(() =>
      expect(server.asked.at(-1)).toEqual({
        what: `POST ${PATH}/test-phone`,
        body: { line: 2, who: '64001', name: 'Mira', do: 'write', text: 'hello' },
      }),
    );
    globalThis.fetch = jest.fn(() => Promise.reject(new Error('no network'))) as never;
    fireEvent.changeText(field, 'again');
    fireEvent.press(screen.getByText('Send'));
    expect(await screen.findByText(/^The server cannot be reached/)).toBeTruthy();
    expect(screen.getByLabelText('Write as the customer').props.value).toBe('again');
  });
});
