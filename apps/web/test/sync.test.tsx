import type { DestinationPage, DestinationRow, SaveDestination } from '@dart-loop/contract';
import { draftOf, emptyDraft, savedOf } from '../features/sync/draft';
import { guessedColumn } from '../features/sync/MappingEditor';
import { destinationState, shelfWords } from '../features/sync/stateWords';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));

const row: DestinationRow = {
  id: 'd',
  name: 'Register',
  kind: 'contact',
  what: 'Contact in a CRM',
  host: 'crm.example',
  state: 'on',
  waiting: 0,
  shelf: 0,
  failingSince: null,
  failure: null,
  resumesAt: null,
  lastOkAt: null,
};
const page = (destination: SaveDestination): DestinationPage => ({
  ...row,
  ...destination,
  hint: null,
  revision: 'as it was',
  columns: null,
  findings: [],
});
const common = { name: 'Register', mapping: [], triggers: { tags: ['vip'] }, who: { tag: 'vip' } };

test.each<SaveDestination>([
  { kind: 'webhook', settings: { address: 'https://a.example/in' }, ...common },
  {
    kind: 'webhook',
    settings: { address: 'https://a.example/in', body: { town: '{{ person.town }}' } },
    ...common,
  },
  {
    kind: 'contact',
    settings: { address: 'https://a.example/c', findBy: 'email', listAt: 'data', idAt: 'key.id' },
    ...common,
  },
  { kind: 'rows', settings: { address: 'https://a.example/r', key: 'person' }, ...common },
  { kind: 'rows', settings: { address: 'https://a.example/r' }, ...common },
  {
    kind: 'file',
    settings: { address: 'https://a.example/DATE.csv' },
    ...common,
    triggers: { daily: { at: '06:00' } },
  },
  { kind: 'file', settings: {}, ...common, triggers: {} },
])('what is kept is opened and kept again as it was', (destination) => {
  expect(savedOf(draftOf(page(destination)))).toEqual({ ok: true, destination });
});

test('what cannot be kept says what is wrong with it', () => {
  const draft = { ...emptyDraft('webhook'), name: 'Hook', address: 'https://a.example/in' };
  expect(savedOf({ ...draft, body: '{"a": ' })).toEqual({
    ok: false,
    problem: 'The body is no JSON. Write it such as {"town": "{{ person.town }}"}.',
  });
  expect(savedOf({ ...draft, who: 'town ist' })).toEqual({
    ok: false,
    problem: expect.stringMatching(/^Whom it is for: “town ist” cannot/) as string,
  });
});

test('a column of theirs is filled with what is called the same', () => {
  const fields = [{ key: 'home_town', name: 'Home town' }] as never;
  const column = (name: string) => guessedColumn({ name, type: 'text', required: false }, fields).origin;
  expect(column('HomeTown')).toEqual({ from: 'field', field: 'home_town' });
  expect(column('first_name')).toEqual({ from: 'fact', fact: 'first name' });
  expect(column('colour')).toEqual({ from: 'text', text: '' });
});

test('how a destination is, is said in a sentence', () => {
  expect(destinationState({ ...row, state: 'off' })).toEqual({
    tone: 'quiet',
    words: 'Off: no changes are recorded or sent',
  });
  expect(destinationState({ ...row, waiting: 2 })).toEqual({
    tone: 'live',
    words: 'On, nothing has been sent yet, 2 deliveries wait',
  });
  expect(
    destinationState({
      ...row,
      failingSince: new Date().toISOString(),
      failure: 'it was answered 503',
      waiting: 1,
    }),
  ).toEqual({
    tone: 'failing',
    words: 'Failing since just now: it was answered 503, 1 delivery waits',
  });
  expect(shelfWords(1)).toBe('1 failed delivery');
});
