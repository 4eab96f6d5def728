import { localeOf } from '../language/locale';

/** What is paid with, by country (ISO 3166-1 to ISO 4217); where none is here, the euro. */
const CURRENCIES: Readonly<Record<string, string>> = {
  AE: 'AED',
  AR: 'ARS',
  AU: 'AUD',
  BR: 'BRL',
  CA: 'CAD',
  CH: 'CHF',
  CL: 'CLP',
  CO: 'COP',
  CZ: 'CZK',
  DK: 'DKK',
  GB: 'GBP',
  GG: 'GBP',
  HK: 'HKD',
  HU: 'HUF',
  IL: 'ILS',
  IM: 'GBP',
  IN: 'INR',
  IS: 'ISK',
  JE: 'GBP',
  JP: 'JPY',
  KR: 'KRW',
  LI: 'CHF',
  MX: 'MXN',
  NO: 'NOK',
  NZ: 'NZD',
  PE: 'PEN',
  PH: 'PHP',
  PL: 'PLN',
  PR: 'USD',
  RO: 'RON',
  SE: 'SEK',
  SG: 'SGD',
  TR: 'TRY',
  US: 'USD',
  ZA: 'ZAR',
};

/** The currency of a country, ISO 4217: "GBP". */
export const currencyOf = (country: string): string =>
  Object.hasOwn(CURRENCIES, country) ? CURRENCIES[country]! : 'EUR';

/** An amount as it is written in a language (ISO 639-1): "£12.50", and "£12" where it is whole. */
export const amountWords = (amount: number, currency: string, language = 'en'): string =>
  new Intl.NumberFormat(localeOf(language), {
    style: 'currency',
    currency,
    ...(Number.isInteger(amount) && { minimumFractionDigits: 0, maximumFractionDigits: 0 }),
  }).format(amount);
