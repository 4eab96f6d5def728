import { fold } from '../fold';
import { asRead, unread, type ReplyReader } from './reading';

/**
 * Said alone or with words around that do not turn them; folded. English first, then Spanish, French, German,
 * Portuguese, Italian.
 */
const YES = [
  ...[
    'y',
    'yes',
    'yeah',
    'yea',
    'yep',
    'yup',
    'yess',
    'ya',
    'aye',
    'sure',
    'ok',
    'okay',
    'k',
    'of course',
    'please do',
    'go ahead',
    'go on',
  ],
  ...[
    'absolutely',
    'definitely',
    'certainly',
    'correct',
    'true',
    'right',
    'sounds good',
    'fine',
    'i do',
    'i am',
    'i will',
    'we are',
    'we do',
    'why not',
  ],
  ...['si', 'claro', 'claro que si', 'por supuesto', 'vale', 'de acuerdo', 'correcto', 'por favor si'],
  ...['oui', 'ouais', 'bien sur', 'daccord', 'avec plaisir', 'volontiers', 'cest ca'],
  ...[
    'ja',
    'jawohl',
    'jep',
    'klar',
    'gerne',
    'na klar',
    'sicher',
    'genau',
    'stimmt',
    'in ordnung',
    'naturlich',
  ],
  ...['sim', 'com certeza', 'esta bem', 'pode ser', 'certo', 'isso'],
  ...['certo', 'certamente', 'va bene', 'volentieri', 'daccordo', 'esatto', 'ovvio'],
];
const NO = [
  ...[
    'n',
    'no',
    'nope',
    'nah',
    'naw',
    'never',
    'not really',
    'no thanks',
    'no thank you',
    'not now',
    'not today',
    'not yet',
    'not for me',
    'none',
  ],
  ...[
    'dont',
    'do not',
    'i dont',
    'im not',
    'i am not',
    'wont',
    'cant',
    'false',
    'wrong',
    'no way',
    'neither',
  ],
  ...['nunca', 'no gracias', 'para nada', 'todavia no', 'ahora no', 'tampoco'],
  ...['non', 'non merci', 'pas du tout', 'jamais', 'pas maintenant', 'pas encore'],
  ...['nein', 'nee', 'nein danke', 'niemals', 'noch nicht', 'jetzt nicht', 'lieber nicht', 'auf keinen fall'],
  ...['nao', 'nao obrigado', 'nao obrigada', 'agora nao', 'de jeito nenhum'],
  ...['no grazie', 'mai', 'per niente', 'non ora', 'assolutamente no'],
];
/** Words around an answer that change nothing. */
const FILLER = new Set(
  'please thanks thank you ta oh well um hi hello that thats is would be great good lovely and i a to it very much all quite so then for me mate cheers ill pass really absolutely definitely gracias por favor merci sil vous plait danke bitte obrigado obrigada grazie per favore senor si et und e y'.split(
    ' ',
  ),
);

const byLength = (phrases: string[]) => [...new Set(phrases)].sort((a, b) => b.length - a.length);
const YES_PHRASES = byLength(YES);
const NO_PHRASES = byLength(NO);

export const yesNo: ReplyReader = {
  type: 'yes/no',
  words: 'yes or no',
  example: 'yes',
  /**
   * "sure why not" is yes; when a yes and a no both stand there, or words that may turn it, it is not
   * guessed.
   */
  read(written) {
    const folded = fold(written);
    if (!folded) {
      const yes = /👍|✅|👌|🙏|💯/u.test(written);
      const no = /👎|❌|🚫/u.test(written);
      if (yes !== no) return answer(yes, 0.9);
      return unread('there is no answer in it');
    }
    let rest = ` ${folded} `;
    const take = (phrases: string[]) => {
      let taken = false;
      for (const phrase of phrases)
        while (rest.includes(` ${phrase} `)) {
          rest = rest.replace(` ${phrase} `, '  ');
          taken = true;
        }
      return taken;
    };
    const whyNot = take(['why not', 'no problem', 'no worries']);
    const no = take(NO_PHRASES);
    const yes = take(YES_PHRASES) || (whyNot && !no);
    if (no && yes) return unread('it says both yes and no');
    if (!no && !yes) return unread('it is neither yes nor no');
    const left = rest.split(' ').filter((word) => word && !FILLER.has(word));
    if (left.length > 2) return unread('it says more than yes or no');
    return answer(yes, left.length === 0 ? 1 : 0.7);
  },
};

const answer = (value: boolean, confidence: number) =>
  asRead({ type: 'yes/no', value }, confidence, value ? 'yes' : 'no');
