import type { Language } from '../people/client';

/**
 * The words of yes, no and not knowing, for each language in one place; folded. What is longer is looked for
 * first.
 */
interface AnswerWords {
  /** Said alone, or with words around that do not turn them. */
  yes: string[];
  no: string[];
  /** A yes that has a negation in it. */
  yesThough: string[];
  /** Words that make a no of a negation behind them, where most others with it would be unclear. */
  strengthens: string[];
  /** Neither, and not to be guessed. */
  unclear: string[];
  dontKnow: string[];
}

/** Phrases with commas between. */
const phrases = (said: string): string[] => said.split(',').map((phrase) => phrase.trim());

const ANSWERS: Record<Language, AnswerWords> = {
  en: {
    yes: phrases(`
      y, yes, yeah, yea, yep, yup, ya, aye, sure, ok, okay, k, kk, okie dokie, okey dokey,
      of course, please do, go ahead, go on, go for it, absolutely, defo, definitely,
      certainly, correct, true, right, sounds good, fine, i do, i am, i will, i have, we are,
      we do, it is, it does, for sure, perfect, great, count me in, im in, id love to,
      would love to, i would love that, id be up for that, that would be great, thatd be great,
      that would be lovely`),
    no: phrases(`
      n, no, nope, nah, naw, never, none, dont, do not, wont, cant, false, wrong, no way,
      neither, no thanks, no thank you, not really, not now, not today, not yet, not this time,
      not for me, not me, not at all, not interested, not likely, no need, no chance, negative,
      i dont, im not, i am not, i havent, it isnt, its not, it is not, isnt, doesnt,
      it does not, it doesnt, rather not, rather not say, not ok, not okay, im alright,
      im good, im fine, im ok thanks, please dont`),
    yesThough: phrases('why not, no problem, not a problem, no worries, cant wait, no probs'),
    strengthens: phrases('definitely, absolutely, certainly, of course, totally, obviously'),
    unclear: phrases(`
      maybe, perhaps, depends, i dont mind, dont mind, not no, wouldnt say no, sure not,
      let me think, not bad, not wrong, not sure not`),
    dontKnow: phrases(`
      i dont know, dont know, do not know, dunno, idk, no idea, not sure, unsure, no clue,
      not certain, cant say, cannot say, who knows, not sure yet, im not sure, havent decided,
      cant decide, cannot decide`),
  },
  es: {
    yes: phrases(`
      si, claro, claro que si, por supuesto, vale, de acuerdo, correcto, me encantaria,
      perfecto, desde luego`),
    no: phrases(`
      nunca, no gracias, para nada, todavia no, ahora no, tampoco, mejor no, en absoluto,
      no quiero, de ninguna manera, prefiero no, prefiero no decirlo, hoy no, jamas`),
    yesThough: phrases('sin problema, ningun problema, como no, por que no'),
    strengthens: phrases('claro que, por supuesto que, desde luego que'),
    unclear: phrases('quizas, quiza, tal vez, depende, a lo mejor'),
    dontKnow: phrases('no se, no lo se, ni idea, no estoy seguro, no estoy segura, quien sabe'),
  },
  fr: {
    yes: phrases(`
      oui, ouais, bien sur, daccord, avec plaisir, volontiers, cest ca, parfait, carrement,
      tout a fait, bien sur que oui`),
    no: phrases(`
      non, non merci, pas du tout, jamais, pas maintenant, pas encore, surtout pas,
      certainement pas, pas aujourdhui, je ne veux pas, surement pas, plutot pas, pas question`),
    yesThough: phrases('pas de probleme, pas de souci, aucun probleme, pourquoi pas'),
    strengthens: phrases('bien sur que'),
    unclear: phrases('peut etre, ca depend'),
    dontKnow: phrases(`
      je ne sais pas, je sais pas, sais pas, aucune idee, pas sur, pas sure, jsp,
      je ne suis pas sur, je ne suis pas sure`),
  },
  de: {
    yes: phrases(`
      ja, jawohl, jep, klar, na klar, gerne, sehr gerne, sicher, genau, stimmt, passt,
      in ordnung, naturlich, auf jeden fall, bestimmt`),
    no: phrases(`
      nein, nee, no, nein danke, niemals, noch nicht, jetzt nicht, lieber nicht, heute nicht,
      auf keinen fall, gar nicht, kein interesse, nicht wirklich, ich will nicht`),
    yesThough: phrases('kein problem, warum nicht, keine frage'),
    strengthens: phrases('naturlich, sicher, bestimmt, stimmt, gerne, klar, passt'),
    unclear: phrases('vielleicht, kommt drauf an, mal sehen'),
    dontKnow: phrases(`
      weiss nicht, weiss ich nicht, ich weiss es nicht, ich weiss nicht, keine ahnung,
      nicht sicher, bin mir nicht sicher`),
  },
  pt: {
    yes: phrases(`
      sim, claro, claro que sim, com certeza, esta bem, pode ser, certo, isso, perfeito,
      adoraria`),
    no: phrases(`
      nao, nao obrigado, nao obrigada, agora nao, de jeito nenhum, ainda nao, nunca, hoje nao,
      prefiro nao, prefiro nao dizer, nao quero, melhor nao`),
    yesThough: phrases('sem problema, porque nao, por que nao'),
    strengthens: phrases('claro que'),
    unclear: phrases('talvez, depende'),
    dontKnow: phrases('nao sei, sei la, nao faco ideia, nao tenho certeza, quem sabe'),
  },
  it: {
    yes: phrases(`
      si, certo, certo che si, certamente, va bene, volentieri, daccordo, esatto, ovvio,
      perfetto, assolutamente si, con piacere`),
    no: phrases(`
      no grazie, mai, per niente, non ora, non ancora, oggi no, meglio di no, non voglio,
      preferisco di no, assolutamente no`),
    yesThough: phrases('nessun problema, perche no'),
    strengthens: phrases('certo che, assolutamente, ovviamente'),
    unclear: phrases('forse, dipende'),
    dontKnow: phrases('non so, non lo so, boh, non saprei, nessuna idea, non sono sicuro, non sono sicura'),
  },
};

/** What turns round the word that it stands with. */
export const NEGATORS = new Set(
  'not no never neither nor nicht kein keine keinen keiner keines nie pas jamais ne ni nunca nao nem non mai'.split(
    ' ',
  ),
);

const byLength = (phrases: string[]): string[] =>
  [...new Set(phrases)].sort((one, other) => other.length - one.length);
const every = (part: keyof AnswerWords): string[] =>
  byLength(Object.values(ANSWERS).flatMap((words) => words[part]));

/** The same over all languages, the longest first: people write in any, whatever theirs is. */
export const YES = every('yes');
export const NO = every('no');
export const YES_THOUGH = every('yesThough');
export const STRENGTHENS = every('strengthens');
export const UNCLEAR = every('unclear');
export const DONT_KNOW = every('dontKnow');

const KNOWS_NOT = new RegExp(`(?:^| )(?:${DONT_KNOW.join('|')})(?: |$)`);

/** Whether somebody says that they do not know, by their words folded. */
export const saysDontKnow = (said: string): boolean => KNOWS_NOT.test(said);

/** Whether folded words are, all of them, a phrase of any language. */
const isAmong = (phrases: Record<Language, string[]>, said: string): boolean =>
  Object.values(phrases).some((list) => list.includes(said));

/** That it was all, after "Anything else?". */
const NOTHING_MORE: Record<Language, string[]> = {
  en: phrases(`
    thats all, thats it, that is all, that is it, that will be all, thatll be all, nothing else, nothing more,
    nothing, just that, just those, only that, only those, done, im done, all done, all good, thats everything,
    no more, thats the lot, finished`),
  es: phrases('nada mas, eso es todo, es todo, nada, solo eso, ya esta, listo, eso seria todo'),
  fr: phrases('c est tout, cest tout, rien d autre, rien dautre, rien, c est bon, seulement ca, ca ira'),
  de: phrases(
    'das wars, das war es, das war alles, das ist alles, nichts, nichts mehr, sonst nichts, fertig, nur das',
  ),
  pt: phrases('so isso, e so isso, mais nada, e tudo, nada, nada mais, isso e tudo, pronto'),
  it: phrases('basta cosi, nientaltro, niente altro, e tutto, niente, solo questo, tutto qui, a posto cosi'),
};
const AROUND_ALL =
  /^(?:no|nope|nah|non|nein|nao|ok|okay|and|y|e|et|und) | (?:thanks|thank you|please|gracias|merci|danke|obrigado|obrigada|grazie|for now)$/g;

/** Whether folded words say that it was all. */
export function wantsNothingMore(said: string): boolean {
  const core = said.replace(AROUND_ALL, '');
  return isAmong(NOTHING_MORE, core) || isAmong(NOTHING_MORE, said);
}

/** That somebody cannot come: said of an appointment, it may mean none at all or another time. */
const CANNOT_COME: Record<Language, string[]> = {
  en: phrases(`
    cant make it, cannot make it, can not make it, wont make it, wont be able to make it, not able to make it,
    unable to make it, not going to make it, cant come, cannot come, cant attend, cannot attend, unable to come,
    unable to attend, wont be able to come, cant do it`),
  es: phrases(`
    no puedo ir, no puedo asistir, no puedo venir, no podre ir, no podre asistir, no voy a poder ir,
    no voy a poder asistir, no llego`),
  fr: phrases(`
    je ne peux pas venir, je peux pas venir, je ne pourrai pas venir, je pourrai pas venir, je ne peux plus venir,
    impossible de venir`),
  de: phrases(`
    schaffe es nicht, schaff es nicht, kann nicht kommen, kann leider nicht kommen, kann doch nicht kommen,
    kann nicht teilnehmen, bin verhindert`),
  pt: phrases('nao posso ir, nao vou poder ir, nao consigo ir, nao poderei ir, nao vou conseguir ir'),
  it: phrases('non posso venire, non riesco a venire, non potro venire, non ce la faccio, non posso esserci'),
};
const COMES_NOT = new RegExp(`(?:^| )(?:${Object.values(CANNOT_COME).flat().join('|')})(?: |$)`);

/** Whether somebody says that they cannot come, by their words folded. */
export const saysCannotCome = (said: string): boolean => COMES_NOT.test(said);

/** Thanks, and nothing beside. */
const THANKS: Record<Language, string[]> = {
  en: phrases(`
    thanks, thank you, many thanks, thanks a lot, thanks very much, thank you very much, thank you so much, thx, ty,
    cheers, ta, perfect thanks, great thanks, ok thanks, okay thanks, brilliant thanks, lovely thanks, no thanks,
    no thank you, thats great thanks, that helps thanks, got it thanks, thats helpful thanks, bye, goodbye`),
  es: phrases(
    'gracias, muchas gracias, mil gracias, ok gracias, vale gracias, perfecto gracias, no gracias, adios',
  ),
  fr: phrases(
    'merci, merci beaucoup, merci bien, ok merci, parfait merci, super merci, non merci, au revoir, merci a vous',
  ),
  de: phrases(
    'danke, vielen dank, danke schon, danke sehr, besten dank, ok danke, super danke, nein danke, tschuss',
  ),
  pt: phrases(
    'obrigado, obrigada, muito obrigado, muito obrigada, ok obrigado, ok obrigada, nao obrigado, tchau',
  ),
  it: phrases('grazie, grazie mille, molte grazie, ok grazie, perfetto grazie, no grazie, arrivederci'),
};

/** Whether folded words thank, or take leave, and say nothing else. */
export const saysThanks = (said: string): boolean => isAmong(THANKS, said);

/** That somebody wants to be answered by a person, wherever it stands in what they say. */
const A_PERSON: Record<Language, string> = {
  en: `(?:speak|talk|chat) (?:to|with) (?:a|an|some|the|your|real|any)? ?(?:real |actual |live )?(?:person|human|people|somebody|someone|agent|operator|adviser|advisor|manager|team|colleague|staff)|(?:speak|talk|chat) (?:to|with) (?:somebody|someone)|real person|real human|human please|(?:need|want|get me|prefer) (?:a|some) (?:person|human)|human being|is there (?:a|any) (?:person|human)|customer service|call me(?: back)?|ring me(?: back)?`,
  es: 'hablar con (?:una persona|alguien|un humano|un agente|un asesor)|persona real|atencion al cliente|que me llamen|llamenme',
  fr: 'parler (?:a|avec) (?:une (?:vraie )?personne|quelqu ?un|un humain|un conseiller|un agent)|vraie personne|service client|rappelez moi|etre rappele',
  de: '(?:mit )?(?:einem|einer|jemand(?:em)?|echten?) ?(?:echten )?(?:menschen|person|mitarbeiter(?:in)?|berater(?:in)?)? ?(?:sprechen|reden|schreiben)|echte(?:r|n)? (?:mensch(?:en)?|person)|kundendienst|rufen sie mich|ruckruf',
  pt: 'falar com (?:uma pessoa|alguem|um humano|um atendente|um agente)|pessoa real|atendimento humano|me ligue|liguem me',
  it: 'parlare con (?:una persona|qualcuno|un umano|un operatore|un addetto)|persona vera|servizio clienti|richiamatemi|chiamatemi',
};
const WANTS_PERSON = new RegExp(
  `(?:^| )(?:${Object.values(A_PERSON).join('|')})(?: |$)|^(?:human|agent|operator|person|a person|somebody|someone|operatore|agente|mensch)(?: please)?$`,
);

/** Whether somebody wants a person to answer them, by their words folded. */
export const wantsPerson = (said: string): boolean => WANTS_PERSON.test(said);

/** None of what there is to choose from. */
const NONE: Record<Language, string[]> = {
  en: phrases(
    'none, none of them, none of those, none of these, none of the above, nothing, no thanks, no, nope',
  ),
  es: phrases('ninguno, ninguna, ninguno de ellos, ninguna de ellas, nada, no gracias'),
  fr: phrases('aucun, aucune, aucun d entre eux, aucune d entre elles, rien, non merci, non'),
  de: phrases(
    'keine, keiner, keins, keines, keines davon, keins davon, nichts, gar nichts, nein danke, nein',
  ),
  pt: phrases('nenhum, nenhuma, nenhum deles, nenhuma delas, nada, nao obrigado, nao obrigada, nao'),
  it: phrases('nessuno, nessuna, nessuno di questi, nessuna di queste, niente, no grazie'),
};

/** Whether folded words want none of the options. */
export const saysNone = (said: string): boolean => {
  const core = said.replace(/ (?:please|thanks|thank you|merci|danke|gracias|grazie)$/, '');
  return isAmong(NONE, said) || isAmong(NONE, core);
};
