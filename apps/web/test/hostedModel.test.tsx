import { fireEvent, screen, waitFor } from '@testing-library/react-native';
import type { AgencyModelPage, ClientModelPage } from '@dart-loop/contract';
import { USUAL_LIMITS } from '@dart-loop/core/answers/hosted/settings';
import { AgencyModel } from '../features/answers/model/AgencyModel';
import { ClientModel } from '../features/answers/model/ClientModel';
import { playServer, showScreen, type PlayedServer } from './support/screens';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));
const PATH = '/clients/saltmarsh-ferries/model';
const page: ClientModelPage = {
  ...{ uses: 'none', own: null, limits: USUAL_LIMITS, spent: [], calls: [] },
  agency: { model: 'wren-2', currency: 'GBP' },
};
const used: ClientModelPage = {
  ...{ ...page, uses: 'agency', spent: [{ currency: 'GBP', calls: 3, cost: 0.004 }] },
  calls: [
    {
      ...{ id: 'c', at: '2026-12-01T10:00:00Z', conversationId: null, model: 'wren-2', currency: 'GBP' },
      ...{ question: 'is it late', answer: 'It is.', said: null, came: 'refused', tokens: 1200, cost: 0.002 },
      ...{ why: 'it did not have the form that was asked for', tookMs: 1_234 },
    },
  ],
};

let server: PlayedServer;
beforeEach(() => {
  server = playServer();
});
const lastAsked = () => server.asked.filter(({ what }) => what.startsWith('PUT')).at(-1);

test('a client uses the agency’s model by one press, and none before', async () => {
  server.answers[`PUT ${PATH}`] = used;
  showScreen(<ClientModel />, server, { [PATH]: page });
  expect(await screen.findByText('Not used: the sources answer alone.')).toBeTruthy();
  expect(screen.queryByText('How it may answer')).toBeNull();
  fireEvent.press(screen.getByRole('radio', { name: 'The agency’s, wren-2' }));
  await screen.findByText('Used: wren-2, the agency’s.');
  expect(lastAsked()!.body).toEqual({ uses: 'agency', own: null, limits: USUAL_LIMITS });
});

test('what it was asked stands with what came of it, and its limits are numbers', async () => {
  server.answers[`PUT ${PATH}`] = used;
  showScreen(<ClientModel />, server, { [PATH]: used });
  expect(await screen.findByText('This month: 3 questions, under £0.01')).toBeTruthy();
  expect(screen.getByText('wren-2: not said, as it did not have the form that was asked for')).toBeTruthy();
  const patience = screen.getByLabelText('Seconds it may take');
  fireEvent.changeText(patience, 'soon');
  fireEvent.press(screen.getByRole('button', { name: 'Save' }));
  expect(await screen.findByText('Write a number.')).toBeTruthy();
  expect(lastAsked()).toBeUndefined();
  fireEvent.changeText(patience, '5');
  fireEvent.press(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() =>
    expect(lastAsked()?.body).toMatchObject({ uses: 'agency', limits: { ...USUAL_LIMITS, patience: 5 } }),
  );
});

test('the agency’s is set up with its address, key and prices, and says who uses it', async () => {
  const none: AgencyModelPage = { kept: null, spent: [], usedBy: [] };
  showScreen(<AgencyModel />, server, { '/model': none });
  const typed: Record<string, string> = {
    ...{ Address: 'https://model.example/v1/chat/completions', Model: 'wren-2', Key: 'k-1234' },
    ...{ 'Price for a million tokens sent': '0,5', 'Price for a million tokens back': '1.5' },
  };
  await screen.findByRole('button', { name: 'Set it up' });
  for (const [label, text] of Object.entries(typed)) fireEvent.changeText(screen.getByLabelText(label), text);
  fireEvent.press(screen.getByRole('button', { name: 'Set it up' }));
  await waitFor(() =>
    expect(lastAsked()).toEqual({
      what: 'PUT /model',
      body: {
        token: 'k-1234',
        model: {
          ...{ address: typed.Address, model: 'wren-2', currency: 'GBP' },
          ...{ priceSent: 0.5, priceBack: 1.5, mostAMonth: 20 },
        },
      },
    }),
  );
});
