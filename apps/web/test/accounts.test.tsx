import { fireEvent, render, screen, waitFor } from '@testing-library/react-native';
import { SWRConfig } from 'swr';
import { Invite } from '@dart-loop/contract/accounts';
import { View } from 'react-native';
import { browserWords } from '../features/accounts/OwnSessions';
import { OwnEntries } from '../features/clients/OwnEntries';
import { openWords } from '../features/hours/OpenWords';
import { hoursOf, hoursProblems, typedHoursOf } from '../features/hours/hours';
import { ApiError } from '../features/session/api';
import { FormField, useSentForm } from '../features/session/useSentForm';
import { ActionButton } from '../ui/press';
import { ThemeProvider } from '../ui/theme';

jest.mock('expo-router', () => ({ Link: 'Link', router: {} }));
Object.assign(globalThis, { document: { documentElement: { dataset: {}, style: {} }, body: { style: {} } } });

function Form({ send }: { send: (values: unknown) => Promise<void> }) {
  const form = useSentForm(Invite, { email: '', role: 'builder', clients: 'all' }, send);
  return (
    <View>
      <FormField of={form} name="email" label="Email" />
      <ActionButton title="Send" busy={form.busy} onPress={form.submit} />
    </View>
  );
}
const show = (send: (values: unknown) => Promise<void>) =>
  render(
    <SWRConfig value={{ provider: () => new Map() }}>
      <ThemeProvider>
        <Form send={send} />
      </ThemeProvider>
    </SWRConfig>,
  );

describe('a form that is sent', () => {
  test('is read by its schema first: what is wrong stands at its field, and nothing is sent', async () => {
    const send = jest.fn(async () => undefined);
    show(send);
    fireEvent.changeText(screen.getByLabelText('Email'), 'no address');
    fireEvent.press(screen.getByText('Send'));
    expect(await screen.findByText('Type an email address such as name@example.org.')).toBeTruthy();
    expect(send).not.toHaveBeenCalled();
    fireEvent.changeText(screen.getByLabelText('Email'), ' Wren@Halfmoonrelay.example ');
    fireEvent.press(screen.getByText('Send'));
    await waitFor(() =>
      expect(send).toHaveBeenCalledWith({
        email: 'wren@halfmoonrelay.example',
        role: 'builder',
        grants: [],
        clients: 'all',
      }),
    );
  });

  test('what the server finds wrong with a field stands there too, and what was typed stays', async () => {
    show(async () => {
      throw new ApiError(409, 'There is one already', 'email: has an account already.', {
        errors: [{ field: 'email', detail: 'has an account already' }],
      });
    });
    fireEvent.changeText(screen.getByLabelText('Email'), 'wren@halfmoonrelay.example');
    fireEvent.press(screen.getByText('Send'));
    expect(await screen.findByText('Has an account already.')).toBeTruthy();
    expect(screen.getByDisplayValue('wren@halfmoonrelay.example')).toBeTruthy();
  });
});

test('a browser is told from another by what it says of itself', () => {
  const chrome =
    'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/131.0 Safari/537.36';
  const safari =
    'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605 Version/18.1 Safari/604.1';
  expect([chrome, safari, `${chrome} Edg/131.0`, 'curl/8.5', ''].map(browserWords)).toEqual([
    'Chrome on Linux',
    'Safari on iOS',
    'Edge on Linux',
    'Another program',
    'Another program',
  ]);
});

test('opening hours are typed and read back the same; what cannot be read says where', () => {
  const hours = {
    monday: [{ from: '09:00', to: '12:00' }],
    daysOff: ['2026-12-25', '01-01'],
    otherHours: { '2026-12-24': [{ from: '09:00', to: '11:00' }], '2026-12-28': [] },
  };
  const typed = typedHoursOf(hours);
  expect(hoursOf(typed)).toEqual(hours);
  expect(hoursProblems(typed)).toEqual({});
  expect(
    Object.keys(
      hoursProblems({
        days: { ...typed.days, friday: 'late' },
        daysOff: 'Xmas',
        otherHours: 'tomorrow 9-12',
      }),
    ),
  ).toEqual(['friday', 'daysOff', 'otherHours']);
  expect(hoursOf(typedHoursOf({}))).toEqual({});
});

test('what hours mean is said as they are typed: now, next, and the dates that are otherwise', () => {
  const hours = {
    monday: [{ from: '09:00', to: '17:00' }],
    daysOff: ['12-28'],
    otherHours: { '2026-12-24': [{ from: '09:00', to: '12:00' }] },
  };
  const monday = Date.parse('2026-12-21T10:00:00Z');
  expect(openWords(hours, 'Europe/London', monday)).toBe(
    'By these hours it is open now (Europe/London). Next otherwise: Thu, 24 Dec 2026 09:00-12:00; Mon, 28 Dec 2026 closed.',
  );
  expect(openWords(hours, 'Europe/London', monday + 8 * 3_600_000)).toContain(
    'closed now; hand-overs and waits go on Thu 24 Dec, 09:00',
  );
  expect(openWords({}, 'Europe/London', monday)).toContain('always open');
  expect(openWords({ monday: hours.monday, daysOff: [] }, 'Nowhere/There', monday)).toBe('');
});

test('an own entry gets a name that texts can merge it by, once', () => {
  const changed = jest.fn();
  const retyped = jest.fn();
  render(
    <ThemeProvider>
      <OwnEntries
        client="saltmarsh-ferries"
        entries={[['ferry_times', 'on the hour']]}
        types={{}}
        onType={retyped}
        hintOf={() => null}
        problemOf={() => null}
        canChange
        onChange={changed}
      />
    </ThemeProvider>,
  );
  const name = screen.getByLabelText('Name of a new entry');
  fireEvent.changeText(name, 'Ferry times');
  expect(screen.getByText('It is there already.')).toBeTruthy();
  fireEvent.changeText(name, '2 of them');
  expect(screen.getByText(/beginning with a letter/)).toBeTruthy();
  fireEvent.changeText(name, 'Parking place');
  fireEvent.press(screen.getByText('Add entry'));
  expect(changed).toHaveBeenCalledWith('parking_place', '');
  fireEvent.press(screen.getByLabelText('ferry_times is any text. Change'));
  fireEvent.press(screen.getByText('a time of day'));
  expect(retyped).toHaveBeenCalledWith('ferry_times', 'time');
});
