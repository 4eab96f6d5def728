import { spansWords } from '@dart-loop/core/loops/edit/typedHours';
import { isOpen, nextOpening, specialDates } from '@dart-loop/core/time/openings';
import { hasHours, type OpeningHours } from '@dart-loop/core/time/openingHours';
import { isZone } from '@dart-loop/core/time/clockTime';
import { localTime, momentWords } from '@dart-loop/core/time/zones';
import { dateWords } from '../../ui/time';
import { Words } from '../../ui/Words';

const MOST_DATES = 3;

/** The same, as it stands below the hours that are written. */
export const OpenWords = ({ hours, timeZone }: { hours: OpeningHours; timeZone: string }) => (
  <Words kind="small">{openWords(hours, timeZone)}</Words>
);

/**
 * What hours mean for hand-overs and waits at a moment (ms; now where it is left out), and which dates ahead
 * are otherwise.
 */
export function openWords(hours: OpeningHours, timeZone: string, now = Date.now()): string {
  if (!isZone(timeZone)) return '';
  if (!hasHours(hours))
    return 'Without opening hours it counts as always open: hand-overs and waits go at once.';
  const opens = nextOpening(hours, now, timeZone);
  const means = isOpen(hours, now, timeZone)
    ? `By these hours it is open now (${timeZone}).`
    : opens === null
      ? 'By these hours it does not open within a year: hand-overs and waits would stand still.'
      : `By these hours it is closed now; hand-overs and waits go on ${momentWords(opens, timeZone)} (${timeZone}).`;
  const dates = specialDates(hours, localTime(now, timeZone).date, MOST_DATES).map(
    ({ date, spans }) => `${onDate(date)} ${spans.length > 0 ? spansWords(spans) : 'closed'}`,
  );
  return dates.length > 0 ? `${means} Next otherwise: ${dates.join('; ')}.` : means;
}

const onDate = (date: string): string =>
  dateWords(`${date}T12:00:00Z`, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  });
