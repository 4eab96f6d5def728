import { LANGUAGES, type Language } from '../people/client';
import { fold } from './fold';

/**
 * Small words that people cannot do without, by language; folded. What two languages share counts for neither
 * of them.
 */
const SMALL_WORDS: Record<Language, string> = {
  en: 'the and is are was were do does did have has had can could will would should you your yours my mine we our us they them this that these those there here what when where which who how much many any some please thanks thank hi hello hey sorry not cant dont isnt im ive id its it at for from with want wants like need near time today tomorrow of to be been am or if about please yes looking wondering',
  es: 'hola buenas buenos dias tardes el los las una unos unas del al es son esta estan estoy soy tengo tiene tienen hay quiero quiere queria quisiera gustaria puedo puede pueden necesito saber cuanto cuanta cuantos cuesta donde cuando cual que como por para con sin mi mis su sus tu ustedes usted nosotros yo me lo le les pero muy mas manana hoy siento favor gracias aqui hora cita sitio',
  fr: 'bonjour bonsoir salut le les une des du au aux est sont suis ai as avez avons ont etes je tu il elle nous vous mon ma mes votre vos notre ce cet cette ces qui que quoi quel quelle quand ou comment combien pour avec sans dans sur ne pas plus tres voudrais voudrait veux veut peux peut pouvez besoin cest jai sil plait merci demain aujourd hui desole quelquun y et',
  de: 'hallo guten tag morgen abend der die das den dem des ein eine einen einem einer ist sind bin war habe haben hat hatte ich du er sie es wir ihr mein meine meinen dein ihre ihren wer was wann wo wie viel welche welcher warum und oder aber nicht kein keine mit ohne fur von zu zum zur bei nach auf um noch auch denn gerne mochte mochten will wollen wurde kann konnen konnte brauche bitte danke heute leid tut jemand jemandem',
  pt: 'ola oi bom boa dia tarde noite os um uma uns umas do da dos das no na nos nas e sao esta estao estou sou tenho tem temos ha quero quer queria gostaria posso pode podem preciso saber quanto quanta custa onde quando qual que como por para com sem meu minha meus minhas seu sua voce voces nos eu me mas muito mais amanha hoje desculpe favor obrigado obrigada aqui horas ficam nao',
  it: 'ciao buongiorno buonasera salve il lo gli le un una uno del della dei delle al alla e sono sei siete ho hai ha abbiamo avete hanno voglio vuole vorrei vorrebbe posso puo potete devo sapere quanto quanta costa dove quando quale che chi come per con senza mio mia miei tuo suo sua nostro voi noi io mi ti ci vi ma molto piu domani oggi dispiace favore grazie qui ora bisogno di non qualcuno',
};
/** Letters that tell, in what is written and not folded. */
const LETTERS: [Language, RegExp][] = [
  ['es', /[ñ¿¡]/i],
  ['de', /[ßäöü]/i],
  ['pt', /[ãõ]/i],
  ['fr', /[êœ]|\b[cjlndms][’']\p{L}/iu],
];

const counts = new Map<string, Language[]>();
for (const language of LANGUAGES)
  for (const word of new Set(SMALL_WORDS[language].split(' ')))
    counts.set(word, [...(counts.get(word) ?? []), language]);

/** How many words a message has at least that tells its language. */
const FEWEST_WORDS = 3;
/** How far the best must be ahead. */
const AHEAD = 1.5;

/**
 * The language that a message is in, of those named (ISO 639-1); null where it is a word or two, or could be
 * in several. By small words and letters, which short messages have and long ones too.
 */
export function languageOfText(text: string, among: readonly string[]): Language | null {
  const start = text.slice(0, 400);
  const words = fold(start).split(' ');
  if (words.length < FEWEST_WORDS) return null;
  const points = new Map<Language, number>();
  const add = (language: Language, count: number) =>
    points.set(language, (points.get(language) ?? 0) + count);
  for (const word of words) {
    const languages = counts.get(word) ?? [];
    for (const language of languages) add(language, 1 / languages.length);
  }
  for (const [language, letters] of LETTERS) if (letters.test(start)) add(language, 1.5);
  const [best, second] = [...points].sort(([, one], [, other]) => other - one);
  if (!best || best[1] < AHEAD || best[1] - (second?.[1] ?? 0) < AHEAD / 2) return null;
  return among.includes(best[0]) ? best[0] : null;
}
