import { fireEvent, render, screen } from '@testing-library/react-native';
import { useState } from 'react';
import type { PeopleVocabulary, Proof } from '@dart-loop/contract';
import { actionOf } from '../features/people/ActionSheet';
import { wordsOfUse as columnWords } from '../features/people/import/ColumnUses';
import { entryWords, proofHtml } from '../features/people/person/ProofPage';
import { readQuiet } from '../features/people/Sending';
import { Sentence, problemWith } from '../features/people/list/Sentence';
import { suggest } from '../features/people/list/suggest';
import { countsWords } from '../features/people/Tasks';
import { ThemeProvider } from '../ui/theme';

jest.mock('expo-router', () => ({
  Link: 'Link',
  router: {},
  useLocalSearchParams: () => ({ client: 'saltmarsh-ferries' }),
}));
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

const KNOWN: PeopleVocabulary = {
  fields: [
    { key: 'town', name: 'Town', type: 'one of', options: ['Harwick', 'Saint Orrin'] },
    { key: 'party_size', name: 'Party size', type: 'number', options: [] },
  ],
  tags: ['vip', 'this and that'],
  lists: ['Workshop news'],
  lines: [{ id: 1, key: 'sms', name: '+44 7700 900144', channel: 'sms' }],
  loops: [{ id: 'l', name: 'Sailing alerts', live: true, scenes: [] }],
  sources: ['spring fair.csv'],
  segments: [{ id: 's', name: 'Regulars' }],
  destinations: [],
};
const ways = (sentence: string) => suggest(sentence, KNOWN).map((each) => each.sentence);

describe('ways on in a sentence', () => {
  test('begin with what there is', () =>
    expect(ways('')).toEqual(
      expect.arrayContaining([
        'in the segment Regulars',
        'opted in on sms',
        'on the list Workshop news',
        'tagged vip',
        'tagged "this and that"',
      ]),
    ));
  test('complete what is begun, and keep what stands before it', () => {
    expect(ways('opted in on sms and tow')).toEqual(['opted in on sms and town is ']);
    expect(ways('not tagg')).toEqual(['not tagged vip', 'not tagged "this and that"']);
  });
  test('offer the values of a field by its type', () => {
    expect(ways('town is ')).toEqual(
      expect.arrayContaining(['town is Harwick', 'town is Saint Orrin', 'town is known']),
    );
    expect(ways('party size is')).toEqual(
      expect.arrayContaining(['party size is at least 1', 'party size is between 1 and 10']),
    );
  });
  test('join a sentence that reads', () =>
    expect(ways('tagged vip').slice(0, 2)).toEqual(['tagged vip and ', 'tagged vip or ']));
  test('each reads as it stands, or may be gone on with', () => {
    for (const start of ['', 'town is ', 'party size is ', 'tagged vip and '])
      for (const sentence of ways(start))
        if (!/ $/.test(sentence))
          expect({ sentence, problem: problemWith(sentence) }).toEqual({ sentence, problem: null });
  });
});

test('a sentence is read as it is typed: what cannot be read is named, what is meant is said, and a tap goes on', () => {
  const Held = () => {
    const [value, setValue] = useState('');
    return (
      <ThemeProvider>
        <Sentence
          value={value}
          onChange={setValue}
          known={KNOWN}
          count={{
            total: 2,
            sample: [
              { id: 'a', name: 'Mira' },
              { id: 'b', name: 'Ole' },
            ],
            understood: null,
            rule: null,
          }}
        />
      </ThemeProvider>
    );
  };
  render(<Held />);
  const input = screen.getByLabelText('Only those who');
  fireEvent.changeText(input, 'tagged vip and wibble wobble');
  expect(screen.getByText('◆ “wibble wobble” cannot be read yet.')).toBeTruthy();
  fireEvent.changeText(input, 'tag vip & so on');
  fireEvent.changeText(input, 'size>3');
  expect(screen.getByText('Reads as: size is above 3')).toBeTruthy();
  fireEvent.changeText(input, 'tagged vip');
  expect(screen.getByText('Such as Mira, Ole.')).toBeTruthy();
  fireEvent(input, 'focus');
  fireEvent.press(screen.getByText('and'));
  expect(screen.getByLabelText('Only those who').props.value).toBe('tagged vip and ');
  fireEvent.changeText(input, 'open');
  expect(screen.getByText(/about a conversation/)).toBeTruthy();
});

test('an action is whole only with what it needs', () => {
  expect(actionOf('add tag', ' ', '')).toBeNull();
  expect(actionOf('add tag', 'vip', '')).toEqual({ do: 'add tag', tag: 'vip' });
  expect(actionOf('join list', 'News', '')).toBeNull();
  expect(actionOf('join list', 'News', 'paper form')).toEqual({
    do: 'join list',
    list: 'News',
    stated: 'paper form',
  });
  expect(actionOf('set', 'town', '')).toBeNull();
  expect(actionOf('erase', 'asked for it', '')).toEqual({ do: 'erase', reason: 'asked for it' });
});

test('columns, counts and quiet hours in words', () => {
  expect(columnWords({ as: 'nothing' }, KNOWN)).toBe('leave out');
  expect(columnWords({ as: 'field', field: 'town', type: 'one of' }, KNOWN)).toBe('Town (one of)');
  expect(columnWords({ as: 'field', field: 'boot_size', type: 'number' }, KNOWN)).toBe(
    'new field boot size (number)',
  );
  expect(columnWords({ as: 'consent', line: 'sms' }, KNOWN)).toBe('consent on +44 7700 900144');
  expect(countsWords({ made: 1_200, 'left out': 0, changed: 3 })).toBe('added 1,200, changed 3');
  expect(countsWords({ made: 96, 'left out': 4 }, true)).toBe('add 96, skip 4');
  expect(countsWords({ 'left as they were': 2, 'opt-ins passed over': 1 }, true)).toBe(
    'leave unchanged 2, skip opt-ins 1',
  );
  expect(readQuiet('9pm - 8')).toEqual({ from: '21:00', to: '08:00' });
  expect(readQuiet(' none ')).toBeNull();
  expect(readQuiet('late')).toBe('wrong');
});

test('a proof says what, by which wording and by what, and its page cannot be broken by what people wrote', () => {
  const entry: Proof['entries'][number] = {
    at: '2026-11-25T10:00:00.000Z',
    what: 'opt-in',
    about: 'the list <News>',
    words: '<script>alert(1)</script>',
    wording: 2,
    language: 'en',
    stated: null,
    confirmed: true,
    by: 'Join, version 1',
    cue: 'poster',
    step: 's1',
    messageId: 'm1',
  };
  expect(entryWords(entry)).toEqual([
    'Opted in to the list <News>',
    '“<script>alert(1)</script>”, wording 2',
    'by Join, version 1, step s1, cue poster, message m1, in en, confirmed by the person',
  ]);
  const html = proofHtml({
    client: 'Saltmarsh & Sons',
    name: 'Mira "M" Lund',
    identities: [{ line: 'SMS', address: '+44' }],
    madeAt: entry.at,
    entries: [entry],
  });
  expect(html).not.toContain('<script>');
  expect(html).toContain('Saltmarsh &#38; Sons');
});
