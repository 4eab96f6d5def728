import { fireEvent, screen, waitFor } from '@testing-library/react-native';
import type {
  AnswerPassage,
  AnswerView,
  SheetPage,
  SheetQuestion,
  Source,
  SourcesPage,
  UnansweredGroup,
} from '@dart-loop/contract';
import { Sheet } from '../features/answers/Sheet';
import { Sources } from '../features/answers/Sources';
import { Tried } from '../features/answers/Tried';
import { Unanswered } from '../features/answers/Unanswered';
import { playServer, showScreen, type PlayedServer } from './support/screens';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));
const CLIENT = 'saltmarsh-ferries';
const PATH = `/clients/${CLIENT}/sources`;

let server: PlayedServer;
const QUESTIONS = `POST /clients/${CLIENT}/sheet/questions`;
const CONFIRM = `POST ${PATH}/confirm`;
beforeEach(() => {
  server = playServer();
  server.answers = { [CONFIRM]: {}, [QUESTIONS]: { id: 'q' } };
});
const show = (screenOf: React.ReactNode, answers: Record<string, unknown> = {}, role = 'builder') =>
  showScreen(screenOf, server, {
    ...answers,
    '/session': { account: { id: 1, role, grants: [] }, clients: [], testPhone: null },
  });

const passage = (heading: string, more: Partial<AnswerPassage> = {}): AnswerPassage => ({
  ...{
    id: `id of ${heading}`,
    from: 'source',
    source: 'on-board.md',
    heading,
    text: `About ${heading}.`,
    matched: [],
  },
  ...more,
});
const answer = (more: Partial<AnswerView>): AnswerView => ({
  ...{ question: 'are dogs allowed', zone: 'answer', text: 'About Dogs.', sure: 0.97, parts: null },
  ...{ passages: [passage('Dogs', { matched: ['dogs'] })], next: [passage('Bicycles')] },
  ...{ disagree: [], model: null },
  ...more,
});

describe('what was asked', () => {
  test('is shown with what it was taken from, and marked right by one press', async () => {
    show(<Tried client={CLIENT} answer={answer({ parts: 1 })} />);
    expect(screen.getByText('About Dogs.')).toBeTruthy();
    expect(screen.getByText('1 part')).toBeTruthy();
    expect(screen.getByText('matched: dogs')).toBeTruthy();
    expect(screen.getByText('97 % sure · next: Bicycles')).toBeTruthy();
    fireEvent.press(await screen.findByRole('button', { name: 'Right: are dogs allowed' }));
    expect(await screen.findByText(/from now on, and kept on the question sheet/)).toBeTruthy();
    expect(server.asked).toEqual([
      { what: CONFIRM, body: { question: 'are dogs allowed', id: 'id of Dogs' } },
      {
        what: QUESTIONS,
        body: { question: 'are dogs allowed', from: 'on-board.md#Dogs', known: 'yes', least: 'answer' },
      },
    ]);
  });

  test('that was answered wrongly, what is right can be chosen, or that nothing is', async () => {
    show(<Tried client={CLIENT} answer={answer({})} />);
    fireEvent.press(await screen.findByRole('button', { name: 'Wrong: are dogs allowed' }));
    expect(screen.getByRole('button', { name: 'Bicycles is right' })).toBeTruthy();
    fireEvent.press(screen.getByRole('button', { name: 'The sources do not say it' }));
    expect(await screen.findByText(/nothing may be said to it/)).toBeTruthy();
  });

  test('and is not known, or said otherwise by two sources, is said to be so', async () => {
    show(
      <Tried
        client={CLIENT}
        answer={answer({
          ...{ zone: 'not known', text: null, passages: [], sure: 0.95 },
          disagree: [passage('Bicycle price'), passage('Bicycle price', { source: 'prices.pdf' })],
        })}
      />,
    );
    expect(screen.getByText('This is not known.')).toBeTruthy();
    expect(screen.getByText(/Two sources do not agree/)).toBeTruthy();
    expect(screen.getAllByText('“About Bicycle price.”')).toHaveLength(2);
    await waitFor(() => expect(screen.getByRole('button', { name: /^Write the answer/ })).toBeTruthy());
    expect(screen.queryByRole('button', { name: /^Right/ })).toBeNull();
  });
});

const source = (more: Partial<Source>): Source => ({
  ...{ id: 'a', kind: 'document', name: 'tickets.md', address: null, pages: 1, passages: 7, words: 1 },
  ...{
    failure: null,
    readAt: '2026-11-01T08:00:00Z',
    every: 'by hand',
    reading: null,
    changedAt: null,
    madeBy: null,
  },
  ...more,
});

test('sources say what they have, how far their reading is, and why there is nothing of them', async () => {
  const page: SourcesPage = {
    sources: [
      source({}),
      source({
        id: 'b',
        kind: 'site',
        name: 'ferry.example',
        reading: { done: 3, total: 9, isStopping: false },
      }),
      source({
        id: 'c',
        kind: 'site',
        name: 'closed.example',
        failure: 'the site’s robots.txt does not let it be read',
      }),
    ],
    ...{ pairs: [], brief: [{ heading: 'Address', text: 'Address: The Old Slipway.' }] },
  };
  show(<Sources />, { [PATH]: page });
  expect(await screen.findByText('3 sources, 0 pairs and 1 fact of the brief')).toBeTruthy();
  expect(screen.getByText(/^7 passages, 1 word; read /)).toBeTruthy();
  expect(screen.getByText('being read: 3 of 9 pages')).toBeTruthy();
  expect(screen.getByText(/^Nothing is known of it: the site’s robots\.txt/)).toBeTruthy();
  expect(screen.getByText('Address: The Old Slipway.')).toBeTruthy();
});

test('a sheet shows first what is not as expected, with how it was before and what changed it', async () => {
  const row: SheetQuestion = {
    question: '',
    from: '',
    contains: [],
    lacks: [],
    known: 'yes',
    least: 'offer',
  };
  const page: SheetPage = {
    rows: [
      {
        ...row,
        id: '1',
        question: 'a',
        came: 'right',
        cameBefore: null,
        isExpected: true,
        said: 'A.',
        saidBefore: null,
      },
      {
        ...row,
        id: '2',
        question: 'b',
        came: 'open',
        cameBefore: 'right',
        isExpected: false,
        said: '',
        saidBefore: 'B.',
      },
    ],
    runs: [
      {
        ...{ at: '2026-11-01T08:00:00Z', because: 'prices.pdf was removed', better: 0, worse: 1 },
        counts: { right: 1, offered: 0, open: 1, wrong: 0 },
      },
    ],
    isStale: false,
    gates: false,
  };
  show(<Sheet />, { [`/clients/${CLIENT}/sheet`]: page });
  expect(await screen.findByText('1 of 2 questions as expected')).toBeTruthy();
  expect(screen.getAllByText(/^[ab]$/).map((each) => each.props.children as string)).toEqual(['b', 'a']);
  expect(screen.getByText('Worse than before: answered rightly, “B.”')).toBeTruthy();
  expect(screen.getByText(/prices\.pdf was removed: 1 worse; 1 right, 0 wrong$/)).toBeTruthy();
});

describe('what was not answered', () => {
  const OPEN = `/clients/${CLIENT}/unanswered`;
  const group = (more: Partial<UnansweredGroup> = {}): UnansweredGroup => ({
    ...{ question: 'do you sell umbrellas', ids: ['a', 'b'], count: 2, lastAt: '2026-11-30T10:00:00Z' },
    ...{ wordings: ['do you sell umbrellas', 'umbrellas?'], why: 'not known' },
    asked: [
      {
        ...{ conversationId: 'c', question: 'do you sell umbrellas', name: 'Anna Vale', loop: 'Ask us' },
        at: '2026-11-30T10:00:00Z',
      },
    ],
    ...more,
  });

  test('is answered once for all its wordings', async () => {
    server.answers[`POST /clients/${CLIENT}/pairs`] = { id: 'p' };
    show(<Unanswered />, { [OPEN]: { groups: [group()] } });
    expect(await screen.findByText('2 questions open')).toBeTruthy();
    expect(screen.getByText(/^asked 2 times, last .*, not in the sources$/)).toBeTruthy();
    expect(screen.getByText('also: “umbrellas?”')).toBeTruthy();
    fireEvent.press(await screen.findByRole('button', { name: 'Write the answer: do you sell umbrellas' }));
    fireEvent.changeText(screen.getByLabelText('Answer'), 'They are £6 at the desk.');
    fireEvent.press(screen.getByRole('button', { name: 'Save answer' }));
    await waitFor(() => expect(server.asked).toHaveLength(1));
    expect(server.asked[0]!.body).toEqual({
      ...{ question: 'do you sell umbrellas', answer: 'They are £6 at the desk.' },
      ...{ wordings: ['umbrellas?'], settles: ['a', 'b'] },
    });
  });

  test('is set aside where it is none of our business', async () => {
    const path = `POST ${OPEN}/not-ours`;
    server.answers[path] = {};
    show(<Unanswered />, { [OPEN]: { groups: [group({ why: 'disagree' })] } });
    fireEvent.press(await screen.findByRole('button', { name: 'Not ours: do you sell umbrellas' }));
    await waitFor(() => expect(server.asked).toEqual([{ what: path, body: { ids: ['a', 'b'] } }]));
    expect(screen.getByText(/the sources say two different things/)).toBeTruthy();
  });

  test('says where there is nothing', async () => {
    show(<Unanswered />, { [OPEN]: { groups: [] } });
    expect(await screen.findByText('Nothing is left open')).toBeTruthy();
  });
});
