/** The locale in which a language (ISO 639-1) is written to people: English as in Britain. */
export const localeOf = (language: string): string => (language === 'en' ? 'en-GB' : language);
