import { fold } from '../fold';
import { unread, type ReplyReader } from './reading';

/** Said alone or with words around that do not turn them. */
const YES = [
  'y',
  'yes',
  'yeah',
  'yep',
  'yup',
  'ya',
  'sure',
  'ok',
  'okay',
  'of course',
  'please do',
  'go ahead',
  'absolutely',
  'definitely',
  'certainly',
  'correct',
  'true',
  'right',
  'why not',
  'sounds good',
  'fine',
  'i do',
  'i am',
  'we are',
  'we do',
  'si',
  'oui',
  'ja',
  'sim',
];
const NO = [
  'n',
  'no',
  'nope',
  'nah',
  'never',
  'not really',
  'no thanks',
  'no thank you',
  'not now',
  'not today',
  'not yet',
  'dont',
  'do not',
  'i dont',
  'im not',
  'i am not',
  'false',
  'wrong',
  'non',
  'nein',
  'nao',
];
/** Words around an answer that change nothing. */
const FILLER = new Set([
  'please',
  'thanks',
  'thank',
  'you',
  'ta',
  'oh',
  'well',
  'um',
  'hi',
  'hello',
  'that',
  'thats',
  'is',
  'would',
  'be',
  'great',
  'good',
  'lovely',
  'and',
  'i',
  'a',
  'to',
  'it',
  'very',
  'much',
  'all',
  'quite',
  'so',
  'then',
  'for',
  'me',
  'mate',
  'cheers',
  'ill',
  'pass',
  'really',
  'absolutely',
  'definitely',
]);

export const yesNo: ReplyReader = {
  type: 'yes/no',
  words: 'yes or no',
  /** "sure why not" is yes, "no worries, yes" is not guessed: when both stand there, or words that may turn it, it asks again. */
  read(written) {
    if (/👍|✅|👌/u.test(written) && !/👎|❌/u.test(written) && !fold(written)) return yes(true);
    if (/👎|❌/u.test(written) && !fold(written)) return yes(false);
    let rest = ` ${fold(written)} `;
    if (!rest.trim()) return unread('there is no answer in it');
    const take = (phrases: string[]) => {
      let taken = false;
      for (const phrase of [...phrases].sort((a, b) => b.length - a.length)) {
        while (rest.includes(` ${phrase} `)) {
          rest = rest.replace(` ${phrase} `, '  ');
          taken = true;
        }
      }
      return taken;
    };
    const sayings = take(['why not']);
    const no = take(NO);
    const agreed = take(YES) || sayings;
    if (no && agreed) return unread('it says both yes and no');
    if (!no && !agreed) return unread('it is neither yes nor no');
    const left = rest.split(' ').filter((word) => word && !FILLER.has(word));
    if (left.length > 2) return unread('it says more than yes or no');
    return { ok: true, value: { type: 'yes/no', value: agreed }, sure: left.length === 0 };
  },
};

const yes = (value: boolean) => ({ ok: true, value: { type: 'yes/no', value }, sure: true }) as const;
