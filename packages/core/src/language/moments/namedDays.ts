/** Easter Sunday by the Gregorian calendar: month (1 to 12) and day. Source: Meeus, Jones and Butcher. */
function easter(year: number): [month: number, day: number] {
  const a = year % 19;
  const b = Math.floor(year / 100);
  const c = year % 100;
  const d = Math.floor(b / 4);
  const e = b % 4;
  const f = Math.floor((b + 8) / 25);
  const g = Math.floor((b - f + 1) / 3);
  const h = (19 * a + b - d - g + 15) % 30;
  const i = Math.floor(c / 4);
  const k = c % 4;
  const l = (32 + 2 * e + 2 * i - h - k) % 7;
  const m = Math.floor((a + 11 * h + 22 * l) / 451);
  const sum = h + l - 7 * m + 114;
  return [Math.floor(sum / 31), (sum % 31) + 1];
}

const FIXED: Record<string, [month: number, day: number]> = {
  'new year': [1, 1],
  epiphany: [1, 6],
  valentine: [2, 14],
  assumption: [8, 15],
  halloween: [10, 31],
  'all saints': [11, 1],
  'christmas eve': [12, 24],
  christmas: [12, 25],
  'boxing day': [12, 26],
  'new years eve': [12, 31],
};
/** In days from Easter Sunday. */
const BY_EASTER: Record<string, number> = {
  'good friday': -2,
  easter: 0,
  'easter monday': 1,
  ascension: 39,
  'whit monday': 50,
};

/** A day with a name of its own in a year, in days since 1970. Names are keys, not words of a language. */
export function namedDay(name: string, year: number): number {
  const [month, day] = FIXED[name] ?? easter(year);
  return Date.UTC(year, month - 1, day) / 86_400_000 + (BY_EASTER[name] ?? 0);
}
