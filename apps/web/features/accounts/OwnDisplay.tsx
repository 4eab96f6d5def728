import { useSWRConfig } from 'swr';
import { DISPLAY_LOCALES, type Display } from '@dart-loop/contract/accounts';
import { PickRow } from '../../ui/rows';
import { Refused } from '../../ui/parts';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

type Locale = (typeof DISPLAY_LOCALES)[number];

const DEVICE = 'as the device';
const NAMES: Record<Locale, string> = {
  'en-GB': 'English',
  'en-US': 'English, United States',
  es: 'Spanish',
  fr: 'French',
  de: 'German',
  pt: 'Portuguese',
  it: 'Italian',
};
/** A moment that shows how each differs. */
const EXAMPLE = Date.UTC(2026, 11, 31, 15, 30);
const exampleOf = (locale: Locale) =>
  new Date(EXAMPLE).toLocaleString(locale, { dateStyle: 'medium', timeStyle: 'short', timeZone: 'UTC' });

/** How dates, times and numbers are written to whoever is signed in, and in which zone. */
export function OwnDisplay({ locale, timeZone }: Display) {
  const { mutate } = useSWRConfig();
  const { act, problem } = useAct();
  const keep = (next: Display) =>
    void act(async () => {
      await ask('PUT', '/account/display', next);
      await mutate('/session');
    });
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const zones = Intl.supportedValuesOf('timeZone');
  return (
    <>
      <Refused problem={problem} />
      <PickRow
        label="Dates and numbers"
        value={locale ?? DISPLAY_LOCALES[0]}
        options={DISPLAY_LOCALES.map((each) => [each, `${NAMES[each]}: ${exampleOf(each)}`] as const)}
        onChange={(next) => keep({ locale: next, timeZone })}
      />
      <PickRow
        label="Time zone of what you see"
        value={timeZone ?? DEVICE}
        options={[
          [DEVICE, `Same as the device (${here})`] as const,
          ...(timeZone && !zones.includes(timeZone) ? [[timeZone, timeZone] as const] : []),
          ...zones.map((zone) => [zone, zone.replaceAll('_', ' ')] as const),
        ]}
        onChange={(next) => keep({ locale, timeZone: next === DEVICE ? null : next })}
      />
    </>
  );
}
