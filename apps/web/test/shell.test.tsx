import { fireEvent, render, renderHook, screen } from '@testing-library/react-native';
import type { ClientSummary, Session, TodayPage } from '@dart-loop/contract';
import type { Role } from '@dart-loop/contract/roles';
import { SWRConfig } from 'swr';
import { get } from '../features/session/api';
import { isLive, useLeaving } from '../features/session/useSession';
import { ClientSwitch } from '../features/shell/ClientSwitch';
import {
  agencyPlaces,
  clientPlaces,
  clientWords,
  isWithin,
  samePlace,
  workPlaces,
  type Place,
} from '../features/shell/places';
import { Today } from '../features/today/Today';
import { initialsOf } from '../ui/Avatar';
import { counted } from '@dart-loop/core/language/counted';
import { ThemeProvider } from '../ui/theme';

const pushed: string[] = [];
jest.mock('expo-router', () => ({
  Link: ({ children }: { children: unknown }) => children,
  router: { push: (href: string) => mockPushed().push(href) },
  usePathname: () => '/saltmarsh-ferries/people',
}));
const mockPushed = () => pushed;
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

const client = (slug: string, name: string, more: Partial<ClientSummary> = {}): ClientSummary => ({
  slug,
  id: 1,
  name,
  waiting: 0,
  failingLines: 0,
  pinned: false,
  ...more,
});
const FERRIES = client('saltmarsh-ferries', 'Saltmarsh Ferries', { waiting: 4, failingLines: 1 });
const CLIMBING = client('northgate-climbing', 'Northgate Climbing', { waiting: 2 });
const session = (role: Role, clients = [FERRIES, CLIMBING], testPhone = true): Session => ({
  account: {
    id: 1,
    name: 'Bram Tansy',
    email: 'bram@halfmoonrelay.example',
    role,
    grants: role === 'operator' ? ['people', 'bookings', 'brief'] : [],
    agency: 'Halfmoon Relay',
    display: { locale: null, timeZone: null },
  },
  clients,
  testPhone: testPhone ? 'every line' : null,
});
const keys = (places: Place[]): string[] => places.flatMap((place) => [place.key, ...keys(place.parts)]);

describe('the places of a client', () => {
  test('are those that the role reaches', () => {
    const of = (role: Role) => keys(clientPlaces(session(role), FERRIES, '/'));
    expect(of('builder')).toEqual([
      'loops',
      'files',
      'people',
      'import',
      'fields',
      'lists',
      'erasures',
      'answers',
      'bookings',
      'lines',
      'sending',
      'test-phone',
      'sync',
      'webhooks',
      'api',
      'brief',
    ]);
    expect(of('operator')).toEqual(['people', 'bookings', 'brief']);
    expect(of('client')).toEqual([]);
    expect(keys(clientPlaces(session('owner', [FERRIES], false), FERRIES, '/'))).not.toContain('test-phone');
    expect(clientPlaces(session('owner', []), undefined, '/')).toEqual([]);
  });

  test('of the agency are the owner’s, and stand beside those of the client', () => {
    expect(keys(agencyPlaces(session('owner'), '/team'))).toEqual(['clients', 'team', 'model', 'audit']);
    expect(agencyPlaces(session('owner'), '/team').find(({ current }) => current)?.key).toBe('team');
    expect(agencyPlaces(session('builder'), '/')).toEqual([]);
  });

  test('know where one is, also in a part of them, and what fails', () => {
    const places = clientPlaces(session('builder'), FERRIES, '/saltmarsh-ferries/lists');
    expect(places.filter(isWithin).map(({ key }) => key)).toEqual(['people']);
    expect(places.filter(({ current }) => current)).toEqual([]);
    expect(places.filter(({ failing }) => failing).map(({ key }) => key)).toEqual(['lines']);
    // A conversation's address names a client too, and is in none of its places.
    const inbox = clientPlaces(session('builder'), FERRIES, '/inbox/saltmarsh-ferries/people');
    expect(inbox.some(isWithin)).toBe(false);
  });

  test('one stays at the same place of another client; without one it is the loops, or the inbox', () => {
    const to = (role: Role, path: string) => samePlace(session(role), path, 'northgate-climbing');
    expect(to('builder', '/saltmarsh-ferries/webhooks/w1')).toBe('/northgate-climbing/webhooks');
    expect(to('builder', '/')).toBe('/northgate-climbing/loops');
    expect(to('builder', '/inbox')).toBe('/inbox?client=northgate-climbing');
    expect(to('operator', '/')).toBe('/inbox?client=northgate-climbing');
  });

  test('the inbox counts who waits, over all clients', () => {
    const [today, inbox] = workPlaces(session('builder'), '/inbox/northgate-climbing/c1');
    expect([today!.current, inbox!.current, inbox!.count]).toEqual([false, true, 6]);
  });
});

test('how a client is, in words', () => {
  expect(clientWords(FERRIES)).toBe('1 line is failing, 4 waiting');
  expect(clientWords(client('a', 'A', { failingLines: 2 }))).toBe('2 lines are failing');
  expect(clientWords(client('a', 'A'))).toBe('nothing waits');
});

test('clients are found by typing; none of that name is said', () => {
  const many = ['One', 'Two', 'Three', 'Four'].map((name) => client(name.toLowerCase(), name));
  const setOpen = jest.fn();
  render(<ClientSwitch session={session('builder', many)} client={many[0]!} open setOpen={setOpen} />, {
    wrapper: ThemeProvider,
  });
  fireEvent.changeText(screen.getByLabelText('Find a client'), 'nothing');
  expect(screen.getByText('No client’s name has “nothing” in it.')).toBeTruthy();
  fireEvent.changeText(screen.getByLabelText('Find a client'), 'hre');
  expect(screen.queryByText('Two')).toBeNull();
  fireEvent(screen.getByLabelText('Find a client'), 'submitEditing');
  expect(pushed.at(-1)).toBe('/three/people');
  expect(setOpen).toHaveBeenCalledWith(false);
});

describe('Today', () => {
  const show = (page: Partial<TodayPage>, who = session('owner')) =>
    render(
      <SWRConfig
        value={{
          provider: () => new Map(),
          fetcher: async (path: string) =>
            path === '/session'
              ? who
              : {
                  attention: [],
                  day: {
                    conversations: 12,
                    conversationsYesterday: 9,
                    messages: 1_234,
                    messagesYesterday: 0,
                    smsParts: 7,
                    smsPartsYesterday: 8,
                  },
                  ...page,
                },
        }}
      >
        <ThemeProvider>
          <Today />
        </ThemeProvider>
      </SWRConfig>,
    );
  test('says that all is quiet, with the day’s figures', async () => {
    show({});
    expect(await screen.findByText('All quiet')).toBeTruthy();
    expect(screen.getByText('1,234')).toBeTruthy();
    expect(screen.getByText(/nothing needs attention/)).toBeTruthy();
  });
  test('without a client it leads to the first one, or to whoever can give one', async () => {
    show({}, session('owner', []));
    expect(await screen.findByText('Add the first client')).toBeTruthy();
    expect(screen.queryByText('All quiet')).toBeNull();
    screen.unmount();
    show({}, session('builder', []));
    expect(await screen.findByText(/Ask an owner of the agency/)).toBeTruthy();
    expect(screen.queryByText('Add the first client')).toBeNull();
  });
  test('has a sentence and one action for each thing', async () => {
    show({
      attention: [
        {
          id: 'a1',
          weight: 'failing',
          client: { slug: FERRIES.slug, name: FERRIES.name },
          channel: 'whatsapp',
          words: 'The line has been failing for 20 min.',
          action: { words: 'Open line', href: '/saltmarsh-ferries/lines' },
        },
      ],
    } as Partial<TodayPage>);
    expect(await screen.findByText('The line has been failing for 20 min.')).toBeTruthy();
    expect(screen.getByText('Open line')).toBeTruthy();
    expect(screen.getByText(/1 thing to do/)).toBeTruthy();
  });
});

test('initials are of the first and last word; a number or a handle has none', () => {
  expect(
    ['Mira Tidewell', 'ana maría lópez', 'Zoë', '+44 7700 900036', '@mira', '李 明'].map(initialsOf),
  ).toEqual(['MT', 'AL', 'Z', '', '', '李明']);
});

test('counts have their noun', () => {
  expect([0, 1, 2, 2_000].map((count) => counted(count, 'person', 'people'))).toEqual([
    '0 people',
    '1 person',
    '2 people',
    '2,000 people',
  ]);
  expect(counted(3, 'change')).toBe('3 changes');
});

test('what is below a path is not asked for again while it is being left, and is again once it was refused', async () => {
  const keys = ['/session', '/clients/saltmarsh-ferries/brief', '/clients/saltmarsh-ferries', '/clients'];
  const live = () => keys.filter(isLive);
  const { result, unmount } = renderHook(() => useLeaving('/clients/saltmarsh-ferries'));
  const refused = result.current(() => {
    expect(live()).toEqual(['/session', '/clients']);
    expect(isLive('/clients/saltmarsh-ferries-two/loops')).toBe(true);
    expect(isLive('/clients/saltmarsh-ferries?q=1')).toBe(false);
    return Promise.reject(new Error('It has lines.'));
  });
  await expect(refused).rejects.toThrow('It has lines.');
  expect(live()).toEqual(keys);
  // What was being asked for below it ends without an answer, and nothing else does.
  const ended: string[] = [];
  const fetched = jest.spyOn(globalThis, 'fetch').mockImplementation(
    (address, options) =>
      new Promise((_, reject) => {
        options!.signal!.addEventListener('abort', () => {
          ended.push(String(address));
          reject(new Error('ended'));
        });
      }),
  );
  for (const path of ['/clients', '/clients/saltmarsh-ferries/brief'])
    void get(path).then(
      () => ended.push('answered'),
      () => ended.push('refused'),
    );
  await result.current(() => Promise.resolve());
  expect(ended).toEqual(['/api/clients/saltmarsh-ferries/brief']);
  fetched.mockRestore();
  expect(live()).toEqual(['/session', '/clients']);
  unmount();
  expect(live()).toEqual(keys);
});
