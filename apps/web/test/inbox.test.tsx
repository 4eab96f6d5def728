import { act, fireEvent, render, screen } from '@testing-library/react-native';
import type { ConversationAct, ConversationPage } from '@dart-loop/contract';
import { AnswerBar } from '../features/inbox/AnswerBar';
import { Charge, chargeWords } from '../features/inbox/Charge';
import { ThemeProvider } from '../ui/theme';
import { playServer, showScreen } from './support/screens';

jest.mock('expo-router', () => ({ Link: 'Link', router: {} }));
// What the theme touches of a page.
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

const page = (more: Partial<ConversationPage> = {}): ConversationPage => ({
  id: 'c1',
  who: 'Maren Oakhollow',
  channel: 'telegram',
  line: { name: '@saltmarsh' },
  shelf: 'running',
  waitingSince: null,
  person: null,
  loop: { id: 'l1', name: 'Ticket office', scenes: [{ id: 'what', name: 'What is it about' }] },
  held: null,
  optedOut: false,
  entries: [],
  before: null,
  ...more,
});
const held = (by: string | null) => ({
  by,
  since: new Date(Date.now() - 5 * 60_000).toISOString(),
  team: by ? null : 'ticket office',
  note: '',
});

describe('writing to a person', () => {
  const bar = (data: ConversationPage, taken = true) => {
    const acts: ConversationAct[] = [];
    render(
      <AnswerBar
        client="saltmarsh-ferries"
        data={data}
        me="Ines Calloway"
        busy={false}
        problem={taken ? null : new Error('The line is disconnected; connect it again first.')}
        act={async (what) => {
          acts.push(what);
          return taken;
        }}
      />,
      { wrapper: ThemeProvider },
    );
    return acts;
  };
  const field = () => screen.getByLabelText('Write to Maren Oakhollow');

  test('says what writing does, before it is done', () => {
    bar(page());
    expect(
      screen.getByText('If you write, you step in and Ticket office pauses for this person.'),
    ).toBeTruthy();
    screen.unmount();
    bar(page({ held: held('Bram Tansy') }));
    expect(screen.getByText('Bram Tansy has the conversation. Writing takes it over.')).toBeTruthy();
    screen.unmount();
    bar(page({ held: held(null) }));
    expect(screen.getByText('Nobody has taken this conversation. It is yours when you write.')).toBeTruthy();
    screen.unmount();
    bar(page({ held: held('Ines Calloway') }));
    expect(screen.queryByText(/Writing/)).toBeNull();
  });
  test('sends what was written, once, and clears the field when it was taken', async () => {
    const acts = bar(page());
    fireEvent.changeText(field(), '  Hello Maren  ');
    await act(async () => fireEvent.press(screen.getByText('Send')));
    expect(acts).toEqual([{ do: 'write', text: 'Hello Maren' }]);
    expect(field().props.value).toBe('');
  });
  test('keeps what was written when it was refused, and says why', async () => {
    const acts = bar(page(), false);
    fireEvent.changeText(field(), 'Hello Maren');
    await act(async () => fireEvent.press(screen.getByText('Send')));
    expect(acts).toHaveLength(1);
    expect(field().props.value).toBe('Hello Maren');
    expect(screen.getByText('The line is disconnected; connect it again first.')).toBeTruthy();
  });
  test('offers nothing to write with once the person has opted out', () => {
    bar(page({ optedOut: true }));
    expect(screen.queryByLabelText('Write to Maren Oakhollow')).toBeNull();
    expect(screen.getByText(/Nothing is sent until they write START/)).toBeTruthy();
  });
});

describe('who is in charge', () => {
  test('in words: oneself, another, or whom it was handed over to', () => {
    expect(chargeWords(held('Ines Calloway'), 'Ines Calloway')).toBe('■ You stepped in 5 min ago');
    expect(chargeWords(held('Bram Tansy'), 'Ines Calloway')).toBe('■ Bram Tansy stepped in 5 min ago');
    expect(chargeWords(held(null), 'Ines Calloway')).toBe('■ handed over to ticket office 5 min ago');
  });
  const charge = (data: ConversationPage) => {
    const acts: ConversationAct[] = [];
    render(<Charge data={data} me="Ines Calloway" busy={false} act={async (what) => acts.push(what) > 0} />, {
      wrapper: ThemeProvider,
    });
    return acts;
  };
  test('a running conversation can be stepped into; one that waits can be settled too', () => {
    const acts = charge(page());
    fireEvent.press(screen.getByText('Step in'));
    expect(screen.queryByText('Settle')).toBeNull();
    screen.unmount();
    const more = charge(page({ shelf: 'waiting on us', loop: null }));
    fireEvent.press(screen.getByText('Settle'));
    expect([...acts, ...more]).toEqual([{ do: 'step in' }, { do: 'hand back', how: 'end' }]);
  });
  test('what one has oneself is handed back: the loop goes on, from a scene, or ends', () => {
    const acts = charge(page({ held: held('Ines Calloway') }));
    expect(screen.queryByText('Step in')).toBeNull();
    for (const choice of [
      'Ticket office continues',
      'Ticket office continues at 1 What is it about',
      'Settled',
    ]) {
      fireEvent.press(screen.getByText('Hand back'));
      fireEvent.press(screen.getByText(choice));
    }
    expect(acts).toEqual([
      { do: 'hand back', how: 'resume' },
      { do: 'hand back', how: { scene: 'what' } },
      { do: 'hand back', how: 'end' },
    ]);
  });
  test('what another has can be taken over', () => {
    const acts = charge(page({ held: held('Bram Tansy') }));
    fireEvent.press(screen.getByText('Take over'));
    expect(acts).toEqual([{ do: 'step in' }]);
  });
});

describe('what the sources say to somebody who waits', () => {
  const asked = (seq: number) => ({
    ...{ kind: 'in' as const, id: `e${seq}`, seq, at: '2026-11-30T10:00:00Z', how: 'said' as const },
    ...{ words: 'are dogs welcome', post: null },
  });
  const PATH = '/clients/saltmarsh-ferries/conversations/c1/drafts?after=4';
  const dogs = { text: 'Dogs are welcome on deck.', from: 'On board, Dogs', isSure: true };
  const show = (data: ConversationPage, drafts = [dogs]) => {
    const server = playServer();
    showScreen(
      <AnswerBar
        client="saltmarsh-ferries"
        data={data}
        me="Ines Calloway"
        busy={false}
        problem={null}
        act={() => Promise.resolve(true)}
      />,
      server,
      { [PATH]: { drafts } },
    );
  };
  const waiting = page({ shelf: 'waiting on us', entries: [asked(4)] });

  test('is taken over into the field, beside what stands there, or put away', async () => {
    show(waiting);
    expect(await screen.findByText('The sources answer it')).toBeTruthy();
    fireEvent.changeText(screen.getByLabelText('Write to Maren Oakhollow'), 'Hello Maren.');
    fireEvent.press(screen.getByRole('button', { name: 'Use: On board, Dogs' }));
    expect(screen.getByLabelText('Write to Maren Oakhollow').props.value).toBe(
      'Hello Maren.\nDogs are welcome on deck.',
    );
    fireEvent.press(screen.getByRole('button', { name: 'Put away' }));
    expect(screen.queryByText('The sources answer it')).toBeNull();
  });

  test('what only comes near is said to; where nobody waits nothing is asked', async () => {
    show(waiting, [{ ...dogs, isSure: false }]);
    expect(await screen.findByText('The sources come near')).toBeTruthy();
    screen.unmount();
    show(page({ entries: [asked(4)] }));
    await act(async () => Promise.resolve());
    expect(screen.queryByRole('group', { name: 'From the sources' })).toBeNull();
  });
});
