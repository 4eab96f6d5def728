import { type Session } from '@dart-loop/core/engine/rehearsal/session';

export const takeName = (session: Session) =>
  session.turns
    .map(({ does }) => does.replace(/^\[(.*)\]$/, '$1'))
    .join(', ')
    .slice(0, 80);

/** The next time it is so late in the zone; on a weekday, unless any day will do. */
export function nextAt(hour: number, zone: string, anyDay = false): number {
  const inZone = (at: number) => {
    const parts = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      weekday: 'short',
      hour: '2-digit',
      minute: '2-digit',
      hour12: false,
    }).formatToParts(at);
    const of = (type: string) => parts.find((part) => part.type === type)!.value;
    return { weekday: of('weekday'), hour: Number(of('hour')), minute: Number(of('minute')) };
  };
  let at = Math.ceil(Date.now() / 60_000) * 60_000;
  for (let count = 0; count < 8 * 24 * 60; count++, at += 60_000) {
    const { weekday, hour: h, minute } = inZone(at);
    if (h === hour && minute === 0 && (anyDay || !['Sat', 'Sun'].includes(weekday))) return at;
    if (minute !== 0) at += (59 - minute) * 60_000;
    else if (h !== hour) at += 59 * 60_000;
  }
  return at;
}
