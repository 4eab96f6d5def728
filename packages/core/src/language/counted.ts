const PLURALS = new Intl.PluralRules('en-GB');

/** A number with its noun: "1 person", "2,000 people". Without `plural`, the noun takes an s. */
export const counted = (count: number, one: string, plural = `${one}s`): string =>
  `${count.toLocaleString('en-GB')} ${PLURALS.select(count) === 'one' ? one : plural}`;
