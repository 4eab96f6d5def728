import { parsePhoneNumberFromString, type CountryCode } from 'libphonenumber-js';
import { asRead, unread, type ReplyReader } from './reading';

export const phone: ReplyReader = {
  type: 'phone',
  words: 'a phone number',
  example: '+44 7700 900123',
  /** Reads to E.164; a number without a country code is taken as one of the client's country. */
  read(written, { country }) {
    const whole = parsePhoneNumberFromString(written, {
      defaultCountry: country as CountryCode,
      extract: false,
    });
    if (whole?.isPossible()) return asRead({ type: 'phone', value: whole.number }, whole.isValid() ? 1 : 0.7);
    const runs = written.match(/[+(]?\d[\d\s().\/-]{4,}\d/g) ?? [];
    const found = runs
      .map((run) => parsePhoneNumberFromString(run, { defaultCountry: country as CountryCode }))
      .filter((each) => each?.isPossible());
    const numbers = [...new Set(found.map((each) => each!.number))];
    if (numbers.length > 1) return unread('it holds more than one phone number');
    if (numbers[0]) return asRead({ type: 'phone', value: numbers[0] }, 0.9);
    const digits = written.replace(/\D/g, '').length;
    return unread(
      digits === 0 ? 'there are no digits in it' : `${digits} digits do not make a phone number here`,
    );
  },
};
