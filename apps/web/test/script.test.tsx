import { act, fireEvent, render, screen, waitFor } from '@testing-library/react-native';
import { SWRConfig } from 'swr';
import type { VersionRow, WaysInPage } from '@dart-loop/contract';
import { Loop, type Step } from '@dart-loop/core';
import { Cues } from '../features/loops/Cues';
import { StepLine } from '../features/loops/StepLine';
import { Versions } from '../features/loops/Versions';
import { WaysIn } from '../features/loops/WaysIn';
import { get } from '../features/session/api';
import { ThemeProvider } from '../ui/theme';

jest.mock('expo-router', () => ({ Link: 'Link', router: {} }));
// What the theme touches of a page.
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

const loopOf = (step: object, cues: object[] = [{ id: 'k', kind: 'keyword', words: ['OPEN'], match: 'exactly' }]): Loop =>
  Loop.parse({
    format: 'dart-loop/1',
    name: 'Trial',
    cues,
    scenes: [
      { id: 'one', name: 'One', steps: [{ id: 's', ...step }] },
      { id: 'two', name: 'Pick a day', steps: [{ id: 'x', kind: 'end' }] },
    ],
  });

describe('a line of the script', () => {
  const show = (step: object) => {
    let loop = loopOf(step);
    const line = (now: Loop) => (
      <StepLine loop={now} step={now.scenes[0]!.steps[0]!} count={3} findings={[]} fields={[]} edit={edit} show={() => undefined} />
    );
    const edit = (change: (before: Loop) => Loop) => void (loop = change(loop));
    render(line(loop), { wrapper: ThemeProvider });
    return () => loop.scenes[0]!.steps[0] as Step & Record<string, unknown>;
  };
  test.each([
    [{ kind: 'wait', for: '2h' }, ['wait', '2 h']],
    [{ kind: 'wait', until: { open: true } }, ['until it is open']],
    [{ kind: 'go', loop: 'House rules', back: true }, ['to the loop “House rules”, and back']],
    [
      { kind: 'split', arms: [{ when: { field: 'party_size', is: 'at least', value: 8 }, to: 'two' }], otherwise: 'end' },
      ['party size is at least 8', '→ 2 Pick a day', 'otherwise', '→ the end'],
    ],
    [
      {
        kind: 'vary',
        arms: [
          { id: 'a', weight: 1, to: 'two' },
          { id: 'b', weight: 0, to: 'end' },
        ],
      },
      ['arm a, weight 1', 'arm b, weight 0'],
    ],
    [{ kind: 'hand over', to: 'desk', giveUp: { after: '30m', to: 'two' } }, ['hand over', 'nobody stepped in for 30 min']],
    [{ kind: 'send out', address: 'https://crm.example.org/x', failed: 'two' }, ['to https://crm.example.org/x', 'not delivered']],
    [
      {
        kind: 'set',
        changes: [
          { do: 'join list', list: 'News' },
          { do: 'calculate', field: 'visits', by: 'plus', amount: '1' },
        ],
      },
      ['list News joined', 'visits plus 1'],
    ],
    [
      { kind: 'ask', text: 'How many?', reply: 'number', field: 'n', min: 1, max: 9, known: 'confirm', skip: {}, gather: undefined },
      ['from 1 to 9, confirmed when known, may be skipped'],
    ],
    [
      {
        kind: 'say',
        text: 'Look.',
        media: { what: 'image', address: 'https://example.org/p.png' },
        typing: 2,
        variants: { es: { text: 'Mira.' } },
      },
      ['with the image https://example.org/p.png, after 2 s of typing, also in es'],
    ],
    [
      {
        kind: 'ask',
        text: 'Which?',
        reply: 'one of',
        field: 'f',
        options: [
          { id: 'a', label: 'Boat', to: 'two' },
          { id: 'b', label: 'Bus' },
        ],
      },
      ['Boat', 'Bus', '→ 2 Pick a day', '→ the next step'],
    ],
    [{ kind: 'end' }, ['the run ends here']],
  ])('%j reads as what it does, with its count', (step, words) => {
    show(step);
    for (const each of words) expect(screen.getByText(each)).toBeTruthy();
    expect(screen.getByText('3')).toBeTruthy();
  });
  test('an exit is taken away, and an arm with it; an option leads elsewhere', () => {
    const after = show({
      kind: 'split',
      arms: [
        { when: { tag: 'a' }, to: 'two' },
        { when: { tag: 'b' }, to: 'end' },
      ],
      otherwise: 'end',
    });
    fireEvent.press(screen.getByLabelText('Remove the exit tagged a'));
    expect(after()).toMatchObject({ arms: [{ when: { tag: 'b' } }], otherwise: 'end' });
    fireEvent.press(screen.getByLabelText('Remove the exit otherwise'));
    expect(after().otherwise).toBeUndefined();
    screen.unmount();
    const option = show({
      kind: 'ask',
      text: 'Which?',
      reply: 'one of',
      field: 'f',
      options: [
        { id: 'a', label: 'Boat' },
        { id: 'b', label: 'Bus' },
      ],
    });
    fireEvent.press(screen.getByLabelText('Boat leads to the next step. Change'));
    fireEvent.press(screen.getByText('2 Pick a day'));
    expect(option()).toMatchObject({ options: [{ label: 'Boat', to: 'two' }, { label: 'Bus' }] });
  });
});

describe('what starts the loop', () => {
  const show = (cues: object[]) => {
    let loop = loopOf({ kind: 'end' }, cues);
    const edit = (change: (before: Loop) => Loop) => void (loop = change(loop));
    render(<Cues loop={loop} edit={edit} />, { wrapper: ThemeProvider });
    return () => loop.cues;
  };
  test('cues of every kind are read in words, with when they may fire again', () => {
    show([
      { id: 'a', kind: 'keyword', words: ['OPEN'], match: 'exactly', alwaysWins: true },
      { id: 'b', kind: 'silence', after: '5d', again: { onceIn: '30d' } },
      { id: 'c', kind: 'tag', tag: 'vip', when: 'added', again: 'once', whileRunning: 'resume' },
    ]);
    for (const words of [
      '“OPEN”',
      'always wins',
      'nothing heard for 5 d',
      'once in 30d',
      'the tag vip added',
      'once, while it runs: resume',
    ])
      expect(screen.getByText(words)).toBeTruthy();
  });
  test('a way of matching is chosen, and what does not go with it goes', () => {
    const after = show([{ id: 'a', kind: 'keyword', words: ['OPEN'], match: 'exactly', alwaysWins: true, slip: true }]);
    fireEvent.press(screen.getByLabelText('matched exactly. Change'));
    fireEvent.press(screen.getByText('anywhere in the text'));
    expect(after()).toEqual([{ id: 'a', kind: 'keyword', words: ['OPEN'], match: 'part' }]);
  });
  test('a cue is removed, and a keyword added', () => {
    const after = show([{ id: 'a', kind: 'fallback' }]);
    fireEvent.press(screen.getByLabelText('Remove the cue whatever nothing else takes'));
    expect(after()).toEqual([]);
    fireEvent.press(screen.getByText('+ keyword'));
    expect(after()).toMatchObject([{ kind: 'keyword', match: 'exactly' }]);
  });
});

/** A server that answers from a table and remembers what was asked. */
function serve(answers: Record<string, unknown>): string[] {
  const asked: string[] = [];
  globalThis.fetch = (async (path: string, init?: { method?: string; body?: string }) => {
    const method = init?.method ?? 'GET';
    if (method !== 'GET') asked.push(`${method} ${path} ${init?.body ?? ''}`);
    const body = answers[`${method} ${path}`] ?? answers[path];
    return {
      ok: body !== undefined,
      status: body === undefined ? 404 : 200,
      headers: new Headers({ 'content-type': 'application/json' }),
      text: async () => JSON.stringify(body ?? { status: 404, title: 'Not found', detail: 'The loop has no version 9.' }),
    } as Response;
  }) as typeof fetch;
  return asked;
}
const withServer = ({ children }: { children: React.ReactNode }) => (
  <SWRConfig value={{ fetcher: get, provider: () => new Map(), dedupingInterval: 0 }}>
    <ThemeProvider>{children}</ThemeProvider>
  </SWRConfig>
);

describe('versions', () => {
  const row = (version: number, more: Partial<VersionRow> = {}): VersionRow => ({
    version,
    publishedAt: '2026-11-20T09:00:00Z',
    publishedBy: 'Odile Marrow',
    changes: ['scene 1: text reworded'],
    live: false,
    peopleInIt: 0,
    ...more,
  });
  test('each says what it changed and who is on the way; going back and moving are asked of the server', async () => {
    const asked = serve({
      '/api/l/versions': [row(3, { live: true, peopleInIt: 1 }), row(2, { peopleInIt: 2 }), row(1, { changes: ['first version'] })],
      'POST /api/l/roll-back': {},
      'POST /api/l/move': {},
    });
    let changed = 0;
    render(<Versions path="/l" open onClose={() => undefined} changed={() => void changed++} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByText('● Version 3, live')).toBeTruthy());
    expect(screen.getByText('first version')).toBeTruthy();
    expect(screen.queryByLabelText('Roll back to version 3')).toBeNull();
    await act(async () => fireEvent.press(screen.getByText('Move 2 people to version 3')));
    await act(async () => fireEvent.press(screen.getByLabelText('Roll back to version 1')));
    expect(asked).toEqual(['POST /api/l/move {}', 'POST /api/l/roll-back {"version":1}']);
    expect(changed).toBe(2);
  });
  test('a refusal is said, and nothing else changes', async () => {
    serve({ '/api/l/versions': [row(2, { live: true }), row(1)] });
    let changed = 0;
    render(<Versions path="/l" open onClose={() => undefined} changed={() => void changed++} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByLabelText('Roll back to version 1')).toBeTruthy());
    await act(async () => fireEvent.press(screen.getByLabelText('Roll back to version 1')));
    await waitFor(() => expect(screen.getByText('The loop has no version 9.')).toBeTruthy());
    expect(changed).toBe(0);
  });
});

describe('ways in', () => {
  test('words and links stand there; where nothing can be handed out, that is said', async () => {
    const ways: WaysInPage = {
      client: 'Saltmarsh Ferries',
      loop: 'Office',
      adQuestions: null,
      ways: [{ lineKey: 'telegram', cueId: 'k', channel: 'telegram', words: 'Write PERSON to @saltmarsh', link: 'https://t.me/saltmarsh' }],
    };
    serve({ '/api/l/ways-in': ways });
    render(<WaysIn path="/l" open onClose={() => undefined} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByText('Write PERSON to @saltmarsh')).toBeTruthy());
    expect(screen.getByText('https://t.me/saltmarsh')).toBeTruthy();
    screen.unmount();
    serve({ '/api/l/ways-in': { ...ways, ways: [] } });
    render(<WaysIn path="/l" open onClose={() => undefined} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByText(/they start by themselves/)).toBeTruthy());
  });
});
