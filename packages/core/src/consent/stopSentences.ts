/**
 * Sentences that want no more messages, beyond doubt; folded, in any of our languages whatever is spoken
 * with a client: nobody means anything else by them.
 */
const SENTENCES = [
  // English
  String.raw`stop (?:texting|messaging|emailing|contacting|spamming|bothering|whatsapping|writing to)(?: me| us)?`,
  String.raw`stop sending (?:me|us|these|this|them|messages|texts|sms)`,
  String.raw`stop (?:all )?(?:these|the|your|those) (?:messages|texts|sms)`,
  String.raw`take me off (?:your|the|this|that) (?:\w+ )?list`,
  String.raw`(?:remove|delete|take) (?:me|my (?:number|name|details)) (?:from|off) `,
  String.raw`(?:want|wish|would like|like) to (?:unsubscribe|opt out)`,
  String.raw`(?:please )?unsubscribe (?:me|please)`,
  String.raw`opt me out`,
  String.raw`no more (?:messages|texts|sms)(?: please| thanks| thank you)?$`,
  String.raw`(?:dont|do not|never) (?:text|message|contact|write to|email) me(?: (?:again|any ?more|ever|please|thanks|thank you))*$`,
  String.raw`^(?:please )?leave me alone`,
  String.raw`^(?:please |pls |just |ok )*stop(?: (?:please|pls|now|it|this|thanks|thank you))*$`,
  // Spanish
  String.raw`no quiero (?:recibir )?mas mensajes`,
  String.raw`no me (?:escriban|escribas|manden|mandes|envien|envies) mas`,
  String.raw`dej(?:en|a|ad|e) de (?:escribirme|mandarme|enviarme|molestarme)`,
  String.raw`(?:borr|quit)(?:ame|enme|eme) de (?:la|su|tu) lista`,
  String.raw`(?:dame|denme|deme) de baja`,
  // French
  String.raw`arretez? de (?:mecrire|menvoyer|me contacter|me deranger)`,
  String.raw`ne mecri(?:vez|s) plus`,
  String.raw`je ne veux plus (?:recevoir )?(?:de |vos |ces )?messages`,
  String.raw`^plus de messages(?: svp| merci)?$`,
  String.raw`(?:desinscri(?:vez|s)|retirez?) moi`,
  // German
  String.raw`keine (?:weiteren )?nachrichten mehr`,
  String.raw`schreib(?:t|e|en sie)? mir (?:bitte )?nicht mehr`,
  String.raw`hor(?:t|en sie)? (?:bitte )?auf mir zu schreiben`,
  String.raw`(?:nehmt|nimm|nehmen sie) mich (?:bitte )?(?:von|aus) (?:der|ihrer|eurer) liste`,
  String.raw`(?:tragt|trag|tragen sie) mich (?:bitte )?aus`,
  String.raw`(?:meldet|melde|melden sie) mich (?:bitte )?ab`,
  // Portuguese
  String.raw`nao quero (?:receber )?mais mensagens`,
  String.raw`parem? de (?:me )?(?:escrever|mandar|enviar|incomodar)`,
  String.raw`nao me (?:escrevam?|mandem?|enviem?) mais`,
  String.raw`(?:me )?(?:tirem?|removam?)(?: me)? da lista`,
  // Italian
  String.raw`cancella(?:mi|temi)`,
  String.raw`non (?:scrivetemi|scrivermi|mandatemi|mandarmi) piu`,
  String.raw`non voglio piu (?:ricevere )?(?:i vostri )?messaggi`,
  String.raw`(?:toglietemi|toglimi) dalla lista`,
  String.raw`smett(?:ete|etela|i|ila) di (?:scrivermi|mandarmi)`,
];
/** Any of the sentences, from a word's beginning on. */
const anyOf = (sentences: readonly string[]): RegExp =>
  new RegExp(`(?:^| )(?:${sentences.map((each) => each.replace(/^\^/, '(?<=^)')).join('|')})`);
const STOPS = anyOf(SENTENCES);
/** "Don't stop texting me" and "why did you stop texting me" want the opposite. */
const OPPOSITE = /\b(?:dont|do not|never|not|did|didnt|does|why|when)(?: you| they| we| it)? stop\b/;

/** Sentences that may want no more messages: it is asked. */
const UNSURE = [
  String.raw`(?:messages|texts|this|these|it) (?:has|have|needs?|must) (?:to |got to )?(?:be )?stop`,
  String.raw`too many (?:messages|texts|sms)`,
  String.raw`^enough(?: (?:already|now|please)| of (?:this|these|the|your)(?: (?:messages|texts))?)*$`,
  String.raw`you keep (?:texting|messaging|writing|sending)`,
  String.raw`how (?:do|can|could) i (?:unsubscribe|opt out|(?:stop|end) (?:this|it|getting|receiving|your))`,
  String.raw`why (?:are|do|did) you (?:keep )?(?:texting|messaging|text|message|contacting)`,
  String.raw`never signed up`,
  String.raw`^(?:sorry |you have the |its the )*wrong number`,
  String.raw`^(?:ya )?basta(?: ya| cosi)?$`,
  String.raw`(?:ya esta bien|basta|demasiados|tantos) (?:de )?mensajes`,
  String.raw`(?:assez|trop) de messages`,
  String.raw`^ca suffit`,
  String.raw`zu viele nachrichten`,
  String.raw`^(?:das reicht|genug)(?: jetzt)?$`,
  String.raw`chega de mensagens|^(?:ja )?chega$|mensagens demais`,
  String.raw`troppi messaggi|basta (?:con i )?messaggi`,
];
const MAY_STOP = anyOf(UNSURE);

/** Longer than this, something is told; a wish to stop is a short one. */
export const LONGEST_STOP = 200;

/** Whether folded words may want no more messages, so that it is to be asked. */
export const mayAskToStop = (said: string): boolean => MAY_STOP.test(said);

/** Whether folded words want no more messages, in a sentence of whatever words. */
export const asksToStop = (said: string): boolean => STOPS.test(said) && !OPPOSITE.test(said);
