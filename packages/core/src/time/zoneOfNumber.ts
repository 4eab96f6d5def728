import { getCountry } from 'countries-and-timezones';
import { getCountries, getCountryCallingCode, parsePhoneNumberFromString } from 'libphonenumber-js';

const zonesOf = (country: string): readonly string[] => getCountry(country)?.timezones ?? [];

/**
 * The time zone in which a telephone number (E.164) is at home; null when that cannot be told. Of a country
 * with several zones,
 * `near` where it is one of them, else the one that the country's list begins with.
 */
export function zoneOfNumber(number: string, near: string): string | null {
  const parsed = parsePhoneNumberFromString(number);
  if (!parsed) return null;
  // Some countries share their code; then the number alone may not tell them apart.
  const countries = parsed.country
    ? [parsed.country]
    : getCountries().filter((each) => getCountryCallingCode(each) === parsed.countryCallingCode);
  if (countries.some((country) => zonesOf(country).includes(near))) return near;
  return countries.length === 1 ? (zonesOf(countries[0]!)[0] ?? null) : null;
}
