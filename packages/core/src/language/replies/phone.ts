import { Metadata, parsePhoneNumberFromString, type CountryCode, type PhoneNumber } from 'libphonenumber-js';
import { asRead, unread, type ReplyReader } from './reading';

export const phone: ReplyReader = {
  type: 'phone',
  words: 'a phone number',
  example: '+44 7700 900123',
  /**
   * Reads to E.164; a number without a country code is taken as one of the client's country. One that is a
   * digit short for its country is not read.
   */
  read(written, { country }) {
    const whole = parsePhoneNumberFromString(written, {
      defaultCountry: country as CountryCode,
      extract: false,
    });
    if (whole?.isPossible() && !isShort(whole))
      return whole.isValid()
        ? asRead({ type: 'phone', value: whole.number })
        : asRead(
            { type: 'phone', value: whole.number },
            0.7,
            whole.number,
            'its country gives out no such numbers',
          );
    const runs = written.match(/[+(]?\d[\d\s().\/-]{4,}\d/g) ?? [];
    const found = runs
      .map((run) => parsePhoneNumberFromString(run, { defaultCountry: country as CountryCode }))
      .filter((each) => each?.isPossible() && !isShort(each));
    const numbers = [...new Set(found.map((each) => each!.number))];
    if (numbers.length > 1) return unread('it holds more than one phone number');
    if (numbers[0])
      return asRead({ type: 'phone', value: numbers[0] }, 0.9, numbers[0], 'it stands among other words');
    const digits = written.replace(/\D/g, '').length;
    return unread(
      digits === 0 ? 'there are no digits in it' : `${digits} digits do not make a phone number here`,
    );
  },
};

/** Whether a number that its country does not give out has fewer digits than the longest there. */
function isShort(number: PhoneNumber): boolean {
  // A code such as +44 or +1 belongs to several.
  const country = number.country ?? number.getPossibleCountries()[0];
  if (number.isValid() || !country) return false;
  const metadata = new Metadata();
  metadata.selectNumberingPlan(country);
  const lengths = metadata.numberingPlan?.possibleLengths() ?? [];
  return number.nationalNumber.length < Math.max(0, ...lengths);
}
