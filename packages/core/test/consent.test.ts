import { isCancelWord, isSkipWord, readConsentWord } from '../src/consent/words';

describe('words about being written to at all', () => {
  test.each([
    ['STOP', 'opt-out'],
    ['Stop.', 'opt-out'],
    ['stop all', 'opt-out'],
    ['unsubscribe', 'opt-out'],
    ['start', 'opt-in'],
    ['UNSTOP', 'opt-in'],
    ['help', 'help'],
  ])('“%s” is %s on every channel', (text, what) => {
    for (const channel of ['telegram', 'sms'] as const)
      expect(readConsentWord(text, channel, ['en'])).toBe(what);
  });
  test.each(['cancel', 'END', 'quit', 'info'])('“%s” counts on SMS alone', (text) => {
    expect(readConsentWord(text, 'sms', ['en'])).not.toBeNull();
    expect(readConsentWord(text, 'telegram', ['en'])).toBeNull();
  });
  test.each([
    ['baja', 'es'],
    ['se désabonner'.replace('se ', ''), 'fr'],
    ['abmelden', 'de'],
    ['sair', 'pt'],
    ['disiscrivimi', 'it'],
  ])('“%s” opts out where the client speaks %s, and is a word like others elsewhere', (text, language) => {
    expect(readConsentWord(text, 'telegram', ['en', language])).toBe('opt-out');
    expect(readConsentWord(text, 'telegram', ['en'])).toBeNull();
  });
  test.each([
    'please stop by on sunday',
    'when does it start',
    'can you help me with a booking',
    '',
    'x'.repeat(500),
  ])('“%s” is none of them', (text) =>
    expect(readConsentWord(text, 'sms', ['en', 'es', 'fr', 'de', 'pt', 'it'])).toBeNull(),
  );
});

describe('words that call off, and words that pass over', () => {
  test.each(['never mind', 'Nevermind!', 'cancelar', 'annuler', 'abbrechen', 'esquece', 'annulla'])(
    '“%s” calls off',
    (text) => expect(isCancelWord(text)).toBe(true),
  );
  test.each(['cancel my other booking', 'never', 'mind the gap'])('“%s” does not', (text) =>
    expect(isCancelWord(text)).toBe(false),
  );
  test.each(['skip', 'Skip it', 'omitir', 'passer', 'überspringen', 'pular', 'salta'])(
    '“%s” passes over',
    (text) => expect(isSkipWord(text)).toBe(true),
  );
  test.each(['skipper', 'I will pass by', 'no'])('“%s” does not', (text) =>
    expect(isSkipWord(text)).toBe(false),
  );
});
