import { fireEvent, screen, waitFor } from '@testing-library/react-native';
import type { BookingRow, BookingsPage } from '@dart-loop/contract';
import { Bookings } from '../features/bookings/Bookings';
import { playServer, showScreen, type PlayedServer } from './support/screens';

jest.mock('expo-router', () => ({
  Link: ({ children }: { children: unknown }) => children,
  router: {},
  useLocalSearchParams: () => ({ client: 'northgate-climbing' }),
}));

const PATH = '/clients/northgate-climbing';
const booking = (more: Partial<BookingRow> = {}): BookingRow => ({
  id: 'b1',
  calendar: 'Trial session',
  personId: 'p1',
  name: 'Mira Tidewell',
  startsAt: '2026-12-03T17:00:00Z',
  endsAt: '2026-12-03T18:00:00Z',
  state: 'booked',
  conversationId: 'c1',
  ...more,
});
const page = (rows: BookingRow[], next: string | null = null): BookingsPage => ({
  zone: 'Europe/London',
  rows,
  next,
});
let server: PlayedServer;
beforeEach(() => (server = playServer()));
const show = (known: Record<string, unknown>) => showScreen(<Bookings />, server, known);
const TO_COME = `${PATH}/bookings?when=to%20come`;
const CALENDARS = { [`${PATH}/calendars`]: [{ id: 'k' }] };

test('without a calendar it leads to where one is added', async () => {
  show({ [`${PATH}/calendars`]: [], [TO_COME]: page([]) });
  expect(await screen.findByText('No calendar yet')).toBeTruthy();
  expect(screen.getByText('Open Calendars')).toBeTruthy();
});

test('with one, and nothing booked, it says so', async () => {
  show({ ...CALENDARS, [TO_COME]: page([]) });
  expect(await screen.findByText('No bookings')).toBeTruthy();
  expect(screen.queryByText('No calendar yet')).toBeNull();
});

test('bookings stand by day, in the client’s own time; one that was cancelled cannot be cancelled again', async () => {
  show({
    ...CALENDARS,
    [TO_COME]: page([
      booking(),
      booking({ id: 'b2', name: 'Tam Ashby', state: 'cancelled' }),
      booking({
        id: 'b3',
        name: 'Odile Fenn',
        startsAt: '2026-12-04T09:30:00Z',
        endsAt: '2026-12-04T10:30:00Z',
      }),
    ]),
  });
  expect(await screen.findByText(/Thursday.*3 December 2026/)).toBeTruthy();
  expect(screen.getAllByText(/Thursday/)).toHaveLength(1);
  expect(screen.getByText(/Friday.*4 December 2026/)).toBeTruthy();
  expect(screen.getAllByText('17:00-18:00')).toHaveLength(2);
  expect(screen.getByText('Trial session, cancelled')).toBeTruthy();
  expect(screen.getByLabelText('Cancel Trial session of Mira Tidewell')).toBeTruthy();
  expect(screen.queryByLabelText('Cancel Trial session of Tam Ashby')).toBeNull();
});

test('a booking is cancelled after it was asked, and kept where that is not meant', async () => {
  show({ ...CALENDARS, [TO_COME]: page([booking()]) });
  fireEvent.press(await screen.findByLabelText('Cancel Trial session of Mira Tidewell'));
  expect(
    await screen.findByText(/^Mira Tidewell: Trial session, .*The time is free again at once/),
  ).toBeTruthy();
  fireEvent.press(screen.getByText('Keep booking'));
  await waitFor(() => expect(screen.queryByText('Keep booking')).toBeNull());
  expect(server.asked).toEqual([]);
  fireEvent.press(screen.getByLabelText('Cancel Trial session of Mira Tidewell'));
  fireEvent.press(await screen.findByText('Cancel booking'));
  await waitFor(() => expect(server.asked).toEqual([{ what: `POST ${PATH}/bookings/b1/cancel`, body: {} }]));
});

test('more are shown where there are more', async () => {
  show({
    ...CALENDARS,
    [TO_COME]: page([booking()], 'n'),
    [`${TO_COME}&after=n`]: page([booking({ id: 'b4', name: 'Bas Rook' })]),
  });
  fireEvent.press(await screen.findByText('Show later bookings'));
  expect(await screen.findByText('Bas Rook')).toBeTruthy();
  expect(screen.queryByText('Show later bookings')).toBeNull();
});
