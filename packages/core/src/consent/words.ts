import type { ChannelKind, Language } from '../people/client';
import { fold } from '../language/fold';
import { LONGEST_STOP, asksToStop, mayAskToStop } from './stopSentences';

/** What a whole message may say about being written to at all. */
export type ConsentWord = 'opt-out' | 'opt-in' | 'help';

/**
 * Opt-out words on every channel; English counts everywhere, the others where the client uses the language.
 */
const OPT_OUT: Record<Language, string[]> = {
  en: ['stop', 'stopall', 'stop all', 'unsubscribe', 'opt out', 'optout', 'remove me'],
  es: ['parar', 'baja', 'alto', 'darme de baja', 'cancelar suscripcion', 'no mas mensajes'],
  fr: ['arret', 'arreter', 'desabonner', 'desabonnement', 'desinscrire', 'me desinscrire'],
  de: ['stopp', 'abmelden', 'abbestellen', 'austragen'],
  pt: ['parar', 'sair', 'descadastrar', 'cancelar inscricao'],
  it: ['ferma', 'disiscrivimi', 'disiscriviti', 'annulla iscrizione', 'basta messaggi', 'basta'],
};
/** Carriers' rules make these opt-out, opt-in and help words on SMS. */
const SMS_OPT_OUT = ['cancel', 'end', 'quit'];
const OPT_IN: Record<Language, string[]> = {
  en: ['start', 'unstop', 'subscribe'],
  es: ['alta', 'empezar'],
  fr: ['debut', 'demarrer'],
  de: ['anmelden'],
  pt: ['comecar', 'iniciar'],
  it: ['inizia', 'iscrivimi'],
};
const HELP: Record<Language, string[]> = {
  en: ['help'],
  es: ['ayuda'],
  fr: ['aide'],
  de: ['hilfe'],
  pt: ['ajuda'],
  it: ['aiuto'],
};

/**
 * Reads a whole message as an opt-out, opt-in or help word; null when it is none. Words around it make it
 * something else, unless they are a sentence that wants no more messages.
 */
export function readConsentWord(
  text: string,
  channel: ChannelKind,
  languages: readonly string[],
): ConsentWord | null {
  if (text.length > LONGEST_STOP) return null;
  const said = fold(text);
  if (asksToStop(said)) return 'opt-out';
  if (text.length > 60) return null;
  const inUse = (words: Record<Language, string[]>) =>
    ['en', ...languages].some((language) => words[language as Language]?.includes(said));
  if (inUse(OPT_OUT) || EVERYTHING.includes(said) || (channel === 'sms' && SMS_OPT_OUT.includes(said)))
    return 'opt-out';
  if (inUse(OPT_IN)) return 'opt-in';
  if (inUse(HELP) || (channel === 'sms' && said === 'info')) return 'help';
  return null;
}

/** Whether a whole message may want no more messages, without saying so beyond doubt. */
export const mayBeOptOut = (text: string): boolean => text.length <= LONGEST_STOP && mayAskToStop(fold(text));

/** Words that are an opt-out of everything, on all lines. */
const EVERYTHING = [
  'stop all',
  'stopall',
  'stop everything',
  'parar todo',
  'tout arreter',
  'alles abbestellen',
  'parar tudo',
  'ferma tutto',
];

/** Whether a whole message wants nothing more on any line. */
export const isOptOutOfEverything = (text: string): boolean => EVERYTHING.includes(fold(text.slice(0, 60)));

/** Whether folded words are an opt-out word in English or in a language that is used. */
export const isOptOutWord = (folded: string, languages: readonly string[]): boolean =>
  ['en', ...languages].some((language) => OPT_OUT[language as Language]?.includes(folded));

const CANCEL: Record<Language, string[]> = {
  en: ['cancel', 'cancel that', 'never mind', 'nevermind', 'forget it', 'quit', 'exit'],
  es: ['cancelar', 'cancela', 'olvidalo', 'dejalo'],
  fr: ['annuler', 'annule', 'laisse tomber', 'laissez tomber'],
  de: ['abbrechen', 'abbruch', 'vergiss es', 'lassen wir das'],
  pt: ['cancelar', 'cancela', 'esquece', 'deixa pra la'],
  it: ['annulla', 'annullare', 'lascia stare', 'lascia perdere'],
};
const SKIP: Record<Language, string[]> = {
  en: ['skip', 'skip it', 'pass', 'later', 'none', 'n a', 'na'],
  es: ['omitir', 'saltar', 'paso'],
  fr: ['passer', 'sauter'],
  de: ['uberspringen', 'weiter'],
  pt: ['pular', 'passar'],
  it: ['salta', 'passo'],
};
const anyOf = (words: Record<Language, string[]>, text: string) => {
  const said = fold(text.slice(0, 60));
  return Object.values(words).some((list) => list.includes(said));
};

/** Whether the whole message calls off what is going on ("never mind", "abbrechen"). */
export const isCancelWord = (text: string): boolean => anyOf(CANCEL, text);
/** Whether the whole message passes over a question. */
export const isSkipWord = (text: string): boolean => anyOf(SKIP, text);
