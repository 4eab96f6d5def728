import { act, fireEvent, render, screen, waitFor } from '@testing-library/react-native';
import { SWRConfig } from 'swr';
import type { LoopSurroundings, VersionRow, WaysInPage } from '@dart-loop/contract';
import { mergeName } from '@dart-loop/core/language/writtenMerge';
import { Loop, type Cue, type Finding, type Step } from '@dart-loop/core';
import { Cues } from '../features/loops/Cues';
import { FindingLine } from '../features/loops/Findings';
import { CueForm } from '../features/loops/forms/cues/CueForm';
import { StepForm } from '../features/loops/forms/StepForm';
import type { StepActions } from '../features/loops/stepActions';
import { StepLine } from '../features/loops/StepLine';
import { MergeNames } from '../features/loops/merging';
import { Versions } from '../features/loops/head/Versions';
import { WaysIn } from '../features/loops/head/WaysIn';
import { get } from '../features/session/api';
import { ThemeProvider } from '../ui/theme';

jest.mock('expo-router', () => ({ Link: 'Link', router: {} }));
// What the theme and the fields touch of a page.
Object.assign(globalThis.window, { addEventListener: () => undefined, removeEventListener: () => undefined });
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

const loopOf = (
  step: object,
  cues: object[] = [{ id: 'k', kind: 'keyword', words: ['OPEN'], match: 'exactly' }],
): Loop =>
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
  const show = (step: object, findings: Finding[] = []) => {
    let loop = loopOf(step);
    const told: string[] = [];
    const actions: StepActions = {
      edit: (change) => void (loop = change(loop)),
      addChoice: () => undefined,
      act: (stepId, what) => void told.push(`${stepId} ${what}`),
      goTo: (sceneId) => void told.push(`to ${sceneId}`),
      accept: (finding, reason) => void told.push(`${finding.code}: ${reason}`),
      fix: (finding) => void told.push(`fix ${finding.code}`),
    };
    render(
      <StepLine
        step={loop.scenes[0]!.steps[0]!}
        scenes={loop.scenes}
        count={3}
        findings={findings}
        known={undefined}
        actions={actions}
      />,
      { wrapper: ThemeProvider },
    );
    return Object.assign(() => loop.scenes[0]!.steps[0] as Step & Record<string, unknown>, { told });
  };
  test.each([
    [{ kind: 'wait', for: '2h' }, ['wait', '2 h']],
    [{ kind: 'wait', until: { open: true } }, ['until it is open']],
    [{ kind: 'go', loop: 'House rules', back: true }, ['to the loop “House rules”, and back']],
    [
      {
        kind: 'split',
        arms: [{ when: { field: 'party_size', is: 'at least', value: 8 }, to: 'two' }],
        otherwise: 'end',
      },
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
    [
      { kind: 'hand over', to: 'desk', giveUp: { after: '30m', to: 'two' } },
      ['hand over', 'nobody stepped in for 30 min'],
    ],
    [
      { kind: 'send out', address: 'https://crm.example.org/x', failed: 'two' },
      ['to https://crm.example.org/x', 'not delivered'],
    ],
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
      {
        kind: 'ask',
        text: 'How many?',
        reply: 'number',
        field: 'n',
        min: 1,
        max: 9,
        known: 'confirm',
        skip: {},
        gather: undefined,
      },
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
      ['with the picture at https://example.org/p.png, after 2 s of typing, also in es'],
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
  test('what is set is written in words once it is whole; what cannot be read stays to be mended', () => {
    const after = show({
      kind: 'set',
      changes: [
        { do: 'calculate', field: 'visits', by: 'plus', amount: '1' },
        { do: 'add tag', tag: 'vip' },
      ],
    });
    const key = (name: string) =>
      fireEvent(screen.getByLabelText('What is set'), 'keyPress', {
        nativeEvent: { key: name },
        preventDefault: () => undefined,
      });
    const write = (words: string) => fireEvent.changeText(screen.getByLabelText('What is set'), words);
    fireEvent.press(screen.getByLabelText('What is set: visits plus 1. Edit'));
    write('recall = visit +6 weeks, on a working');
    key('Enter');
    expect(screen.getByText(/Write it as “visits plus 1”/)).toBeTruthy();
    write('recall = visit +6 weeks, on a working day');
    key('Enter');
    expect(after()).toMatchObject({
      changes: [{ do: 'date', field: 'recall', from: 'visit', moves: ['+6 weeks', 'on a working day'] }, {}],
    });
    fireEvent.press(screen.getByLabelText('Remove tag vip on'));
    expect(after().changes).toHaveLength(1);
  });
  test('a reminder is worded, moved and taken away; they stay in their order', () => {
    const after = show({
      kind: 'ask',
      text: 'How many?',
      reply: 'number',
      field: 'n',
      reminders: [
        { after: '3h', text: 'Still there?' },
        { after: '1d', text: 'Last call.' },
      ],
    });
    fireEvent.press(screen.getByLabelText('Reminder after 3 h. Change the time'));
    // What another reminder has is not offered.
    expect(screen.queryByText('1 d')).toBeNull();
    fireEvent.press(screen.getByText('2 d'));
    expect(after()).toMatchObject({
      reminders: [{ text: 'Last call.' }, { after: '2d', text: 'Still there?' }],
    });
    fireEvent.press(screen.getByLabelText('Remove the reminder after 1 d'));
    expect(after()).toMatchObject({ reminders: [{ after: '3h', text: 'Still there?' }] });
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
  test('an answer’s exit is taken away, and what it says where it does not know stays', () => {
    const after = show({ kind: 'answer', notKnown: { text: 'I cannot say.', to: 'two' } });
    fireEvent.press(screen.getByLabelText('Remove the exit not known'));
    expect(after()).toMatchObject({ notKnown: { text: 'I cannot say.' } });
    expect(after().notKnown).not.toHaveProperty('to', 'two');
  });
});

describe('a finding at a line', () => {
  const finding: Finding = {
    code: 'no way out',
    severity: 'warns',
    sceneId: 'one',
    stepId: 's',
    cueId: null,
    about: '',
    reason: 'It waits for ever.',
    fix: { words: 'Add an exit', edits: [] },
    accepted: null,
  };
  const show = (own: Finding) => {
    const told: string[] = [];
    render(
      <FindingLine
        finding={own}
        actions={{ fix: () => told.push('fixed'), accept: (_f, reason) => told.push(`accepted: ${reason}`) }}
      />,
      {
        wrapper: ThemeProvider,
      },
    );
    return told;
  };
  test('is fixed in one tap, or accepted with a reason that is asked for', () => {
    const told = show(finding);
    fireEvent.press(screen.getByText('Add an exit'));
    fireEvent.press(screen.getByText('Accept'));
    fireEvent.press(screen.getByText('Accept'));
    expect(told).toEqual(['fixed']);
    fireEvent.changeText(screen.getByLabelText('Why is this acceptable?'), ' They always answer ');
    fireEvent.press(screen.getByText('Accept'));
    expect(told).toEqual(['fixed', 'accepted: They always answer']);
  });
  test('that is accepted shows the reason and is opened again; what stops cannot be accepted', () => {
    const told = show({ ...finding, accepted: 'They always answer' });
    expect(screen.getByText('Accepted: They always answer')).toBeTruthy();
    fireEvent.press(screen.getByText('Reopen'));
    expect(told).toEqual(['accepted: null']);
    screen.unmount();
    show({ ...finding, severity: 'stops' });
    expect(screen.queryByText('Accept')).toBeNull();
  });
});

describe('a step’s own form', () => {
  const form = (step: object) => {
    let now = loopOf(step).scenes[0]!.steps[0]!;
    render(
      <StepForm
        step={now}
        scenes={loopOf(step).scenes}
        known={undefined}
        onChange={(next) => void (now = next)}
        onClose={() => undefined}
      />,
      {
        wrapper: ThemeProvider,
      },
    );
    return () => now as Step & Record<string, unknown>;
  };
  test('a wait is written in words; what cannot be read says what is expected and changes nothing', () => {
    const after = form({ kind: 'wait', for: '2h' });
    fireEvent.changeText(screen.getByLabelText('Wait'), 'soon');
    expect(screen.getByText(/Write a time such as/)).toBeTruthy();
    expect(after()).toMatchObject({ for: '2h' });
    fireEvent.changeText(screen.getByLabelText('Wait'), 'until monday 9:00');
    expect(after()).toEqual({ id: 's', kind: 'wait', until: { weekdays: ['monday'], time: '09:00' } });
  });
  test('a condition is written in words, and an arm added and removed', () => {
    const after = form({ kind: 'split', arms: [{ when: { tag: 'a' }, to: 'two' }] });
    fireEvent.changeText(screen.getByLabelText('If 1'), 'party size is at least 8');
    fireEvent.press(screen.getByText('Add a condition'));
    expect(after()).toMatchObject({
      arms: [{ when: { field: 'party_size', is: 'at least', value: 8 } }, { when: { open: true } }],
    });
    fireEvent.press(screen.getByLabelText('Remove condition 1'));
    expect(after()).toMatchObject({ arms: [{ when: { open: true } }] });
  });
  test('a question changes its type with what belongs to it; its options keep their targets', () => {
    const after = form({ kind: 'ask', text: 'How many?', reply: 'number', field: 'n', min: 1 });
    fireEvent.press(screen.getByLabelText('The answer is: a number. Change'));
    fireEvent.press(screen.getByText('one of the options'));
    expect(after()).toMatchObject({ reply: 'one of', options: [{ label: 'This' }, { label: 'That' }] });
    expect(after().min).toBeUndefined();
    fireEvent.changeText(screen.getByLabelText('Possible answers, one per line'), 'Boat\nBus\nBike');
    expect(after()).toMatchObject({ options: [{ label: 'Boat' }, { label: 'Bus' }, { label: 'Bike' }] });
  });
  test('a further answer is added, worded, and taken away; what does not go with it is gone', () => {
    const after = form({
      kind: 'ask',
      text: 'How many?',
      reply: 'number',
      field: 'n',
      gather: '20s',
      known: 'confirm',
    });
    fireEvent.press(screen.getByText('Add an answer'));
    expect(after()).toMatchObject({ also: [{ reply: 'date' }] });
    expect([after().gather, after().known]).toEqual([undefined, undefined]);
    fireEvent.changeText(screen.getByLabelText('Question 2, if it is missing'), 'Which day?');
    fireEvent.changeText(screen.getByLabelText('Field of answer 2'), 'Visit day');
    expect(after()).toMatchObject({ also: [{ text: 'Which day?', field: 'visit_day' }] });
    expect(screen.queryByText('ask whether it is still right')).toBeNull();
    fireEvent.press(screen.getByLabelText('Remove answer 2'));
    expect(after().also).toBeUndefined();
  });
  test('an answer is shown back in words, and “anything else?” belongs to several', () => {
    const after = form({
      kind: 'ask',
      text: 'Which?',
      reply: 'several of',
      field: 'jobs',
      options: [
        { id: 'a', label: 'Nails' },
        { id: 'b', label: 'Ears' },
      ],
    });
    fireEvent.press(screen.getByLabelText('Ask “Anything else?” until nothing more is named'));
    fireEvent.changeText(screen.getByLabelText('Words for “Anything else?”'), 'And?');
    fireEvent.press(screen.getByText('always'));
    fireEvent.changeText(screen.getByLabelText('Words for showing it back'), '{{ answers.jobs }}?');
    expect(after()).toMatchObject({
      anythingElse: { text: 'And?' },
      showBack: { when: 'always', text: '{{ answers.jobs }}?' },
    });
    fireEvent.press(screen.getByLabelText('The answer is: several of the options. Change'));
    fireEvent.press(screen.getByText('a number'));
    expect(after().anythingElse).toBeUndefined();
  });
  test('what is merged stands in brackets, in words, and no brace is seen', () => {
    const names = ['person.first_name', 'brief.hours'].map((path) => ({ path, words: mergeName(path) }));
    let now: Step = loopOf({ kind: 'hand over', note: 'call {{ person.first_name | default: "them" }}' })
      .scenes[0]!.steps[0]!;
    render(
      <MergeNames.Provider value={names}>
        <StepForm
          step={now}
          scenes={[]}
          known={undefined}
          onChange={(next) => (now = next)}
          onClose={() => 0}
        />
      </MergeNames.Provider>,
      { wrapper: ThemeProvider },
    );
    const note = screen.getByLabelText('Note for the colleague');
    expect(note.props.value).toBe('call [first name, or "them"]');
    fireEvent.changeText(note, 'call [first name, or "them"] by [hours]');
    expect(now).toMatchObject({
      note: 'call {{ person.first_name | default: "them" }} by {{ brief.hours }}',
    });
    expect(note.props.value).toBe('call [first name, or "them"] by [brief: hours]');
    expect(JSON.stringify(screen.toJSON())).not.toMatch(/\{\{/);
    fireEvent(note, 'selectionChange', { nativeEvent: { selection: { start: 5, end: 5 } } });
    fireEvent.press(screen.getAllByLabelText('Insert a merge field')[0]!);
    fireEvent.press(screen.getByText('brief: hours'));
    expect(now).toMatchObject({ note: expect.stringMatching(/^call \{\{ brief.hours \}\}\{\{ person/) });
  });
  test('a go comes back from its scene, for each item of a field', () => {
    const after = form({ kind: 'go', to: 'two' });
    fireEvent.press(screen.getByLabelText('Return here after the last step of the scene'));
    fireEvent.changeText(screen.getByLabelText('Repeat the scene for each item of the field'), 'Dogs');
    fireEvent.changeText(screen.getByLabelText('At most this many times'), '4');
    expect(after()).toMatchObject({ back: true, each: { field: 'dogs', most: 4 } });
    fireEvent.press(screen.getByLabelText('Return here after the last step of the scene'));
    expect(after()).toEqual({ id: 's', kind: 'go', to: 'two' });
  });
  test('a go that repeats a scene may lead to another loop instead', () => {
    const after = form({ kind: 'go', to: 'two', back: true, each: { field: 'dogs' } });
    fireEvent.press(screen.getByText('another loop'));
    expect(after()).toEqual({ id: 's', kind: 'go', loop: 'Another loop', back: true });
  });
  test('an answer says what it does where the sources do not know, where that leads, and how long it waits', () => {
    const after = form({ kind: 'answer' });
    fireEvent.changeText(screen.getByLabelText('Text'), 'I cannot say that.');
    fireEvent.press(screen.getByLabelText('Separate exit when it is not known'));
    fireEvent.changeText(screen.getByLabelText('After how many in a row'), '9');
    expect(screen.getByText('A number from 1 to 5.')).toBeTruthy();
    fireEvent.changeText(screen.getByLabelText('After how many in a row'), '2');
    fireEvent.press(screen.getByLabelText('Separate exit for who wants a person'));
    fireEvent.changeText(screen.getByLabelText('Answers before the loop goes on'), '4');
    fireEvent.changeText(screen.getByLabelText('Wait for more messages'), 'soon');
    expect(screen.getByText('A time such as 10s or 2m.')).toBeTruthy();
    fireEvent.changeText(screen.getByLabelText('Wait for more messages'), '10s');
    expect(after()).toEqual({
      ...{ id: 's', kind: 'answer', person: 'next', most: 4, gather: '10s' },
      notKnown: { text: 'I cannot say that.', times: 2, to: 'next' },
    });
    fireEvent.changeText(screen.getByLabelText('Text'), '');
    fireEvent.press(screen.getByLabelText('Separate exit when it is not known'));
    fireEvent.press(screen.getByLabelText('Separate exit for who wants a person'));
    expect(after()).toEqual({ id: 's', kind: 'answer', most: 4, gather: '10s' });
  });
  test('an alert with a wrong address says which, and stays as it was', () => {
    const after = form({ kind: 'alert', by: 'email', to: [], text: 'New' });
    fireEvent.changeText(screen.getByLabelText('To, comma-separated'), 'nobody');
    expect(screen.getByText(/“nobody” is not an email address/)).toBeTruthy();
    expect(after()).toMatchObject({ to: [] });
    fireEvent.changeText(screen.getByLabelText('To, comma-separated'), 'desk@example.org, pier@example.org');
    expect(after()).toMatchObject({ to: ['desk@example.org', 'pier@example.org'] });
  });
});

describe('what starts the loop', () => {
  const show = (cues: object[], known?: LoopSurroundings) => {
    let loop = loopOf({ kind: 'end' }, cues);
    const actions = {
      edit: (change: (before: Loop) => Loop) => void (loop = change(loop)),
    } as unknown as StepActions;
    render(<Cues loop={loop} known={known} findings={[]} actions={actions} />, { wrapper: ThemeProvider });
    return () => loop.cues;
  };
  test('cues of every kind are read in words, with when they may fire again', () => {
    show([
      { id: 'a', kind: 'keyword', words: ['OPEN'], match: 'exactly', alwaysWins: true },
      { id: 'b', kind: 'silence', after: '5d', again: { onceIn: '30d' } },
      { id: 'c', kind: 'tag', tag: 'vip', when: 'added', again: 'once', whileRunning: 'resume' },
    ]);
    for (const words of [
      '“OPEN” exactly, always wins',
      'nothing heard for 5 d',
      'once in 30d',
      'once, while it runs: resume',
    ])
      expect(screen.getByText(words, { exact: false })).toBeTruthy();
  });
  test('a cue is removed, and one of any kind added', () => {
    const after = show([{ id: 'a', kind: 'fallback' }]);
    fireEvent.press(screen.getByLabelText('Cue: whatever nothing else takes. Change'));
    fireEvent.press(screen.getByText('Remove cue'));
    expect(after()).toEqual([]);
    fireEvent.press(screen.getByText('+ cue'));
    fireEvent.press(screen.getByText('A comment'));
    expect(after()).toMatchObject([{ kind: 'comment', posts: 'any' }]);
  });
  test('as a keyword is typed, who else hears it is said; a way of matching takes along what does not go with it', () => {
    const other = {
      ...loopOf({ kind: 'end' }, [{ id: 'k', kind: 'keyword', words: ['open'], match: 'first word' }]),
      name: 'Hours',
    };
    let cue = {
      id: 'a',
      kind: 'keyword',
      words: ['GO'],
      match: 'exactly',
      alwaysWins: true,
      slip: true,
    } as Cue;
    const known = {
      others: [other],
      lines: [],
      client: { languages: ['en'] },
    } as unknown as LoopSurroundings;
    render(
      <CueForm
        cue={cue}
        loop={loopOf({ kind: 'end' })}
        known={known}
        onChange={(next) => void (cue = next)}
        onRemove={() => undefined}
        onClose={() => undefined}
      />,
      {
        wrapper: ThemeProvider,
      },
    );
    expect(screen.getByText('Nothing else starts on this.')).toBeTruthy();
    fireEvent.changeText(screen.getByLabelText('Keywords, comma-separated'), 'GO, OPEN');
    expect(screen.getByText(/“OPEN” is also heard by Hours/)).toBeTruthy();
    fireEvent.press(screen.getByText('anywhere in the text'));
    expect(screen.getByText(/“OPEN” is heard by Hours first/)).toBeTruthy();
    expect(cue).toEqual({ id: 'a', kind: 'keyword', words: ['GO', 'OPEN'], match: 'part' });
    fireEvent.press(screen.getByText('exactly'));
    fireEvent.changeText(screen.getByLabelText('Keywords, comma-separated'), 'STOP');
    expect(screen.getByText(/“STOP” is an opt-out/)).toBeTruthy();
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
      text: async () =>
        JSON.stringify(body ?? { status: 404, title: 'Not found', detail: 'The loop has no version 9.' }),
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
      '/api/l/versions': [
        row(3, { live: true, peopleInIt: 1 }),
        row(2, { peopleInIt: 2 }),
        row(1, { changes: ['first version'] }),
      ],
      'POST /api/l/roll-back': {},
      'POST /api/l/move': {},
    });
    let changed = 0;
    render(<Versions path="/l" open onClose={() => undefined} changed={() => void changed++} />, {
      wrapper: withServer,
    });
    await waitFor(() => expect(screen.getByText('● Version 3, live')).toBeTruthy());
    expect(screen.getByText('first version')).toBeTruthy();
    expect(screen.queryByLabelText('Restore version 3')).toBeNull();
    await act(async () => fireEvent.press(screen.getByText('Move 2 people to version 3')));
    await act(async () => fireEvent.press(screen.getByLabelText('Restore version 1')));
    expect(asked).toEqual(['POST /api/l/move {}', 'POST /api/l/roll-back {"version":1}']);
    expect(changed).toBe(2);
  });
  test('a refusal is said, and nothing else changes', async () => {
    serve({ '/api/l/versions': [row(2, { live: true }), row(1)] });
    let changed = 0;
    render(<Versions path="/l" open onClose={() => undefined} changed={() => void changed++} />, {
      wrapper: withServer,
    });
    await waitFor(() => expect(screen.getByLabelText('Restore version 1')).toBeTruthy());
    await act(async () => fireEvent.press(screen.getByLabelText('Restore version 1')));
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
      ways: [
        {
          lineKey: 'telegram',
          cueId: 'k',
          channel: 'telegram',
          words: 'Write PERSON to @saltmarsh',
          link: 'https://t.me/saltmarsh',
          picture: 'https://loop.example.org/w/l/telegram/k.svg',
        },
      ],
    };
    serve({ '/api/l/ways-in': ways });
    render(<WaysIn path="/l" open onClose={() => undefined} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByText('Write PERSON to @saltmarsh')).toBeTruthy());
    expect(screen.getByText('https://t.me/saltmarsh')).toBeTruthy();
    const copied: string[] = [];
    const clipboard = { writeText: (text: string) => Promise.resolve(void copied.push(text)) };
    Object.assign(globalThis, { navigator: { clipboard } });
    fireEvent.press(screen.getByText('Copy as a button'));
    fireEvent.press(screen.getByText('Copy as a picture'));
    expect(copied[0]).toMatch(/^<a href="https:\/\/t\.me\/saltmarsh"[^>]*>Write to Saltmarsh Ferries<\/a>$/);
    expect(copied[1]).toContain('<img src="https://loop.example.org/w/l/telegram/k.svg"');
    expect(await screen.findByText('Copied')).toBeTruthy();
    screen.unmount();
    serve({ '/api/l/ways-in': { ...ways, ways: [] } });
    render(<WaysIn path="/l" open onClose={() => undefined} />, { wrapper: withServer });
    await waitFor(() => expect(screen.getByText(/they start by themselves/)).toBeTruthy());
  });
});
