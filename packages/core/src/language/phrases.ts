import type { Language } from '../people/client';
import { fold } from './fold';

/** The question which one in a span is meant, by its ends. */
interface Which {
  between: (from: string, to: string) => string;
  from: (from: string) => string;
  until: (to: string) => string;
}

/** The few sentences that the program says by itself, where a loop has no wording of its own for them. */
interface Phrases {
  yes: string;
  no: string;
  skip: string;
  /** What leads to further choices, and from the last ones back to the first. */
  more: string;
  first: string;
  /** Said above further choices. */
  moreHere: string;
  writeForMore: (word: string, left: number) => string;
  /**
   * Above the times that are free when somebody has named a day or a part of it; where none is then; where
   * one that was chosen is not free any more.
   */
  timesFree: string;
  nearestFree: string;
  timeGone: string;
  /** Asked of whoever cannot come; and said once a booking is cancelled. */
  cancelOrMove: { question: string; cancel: string; move: string; cancelled: string };
  /** What opens a list of choices; at most 20 characters. */
  choose: string;
  /** Closes the first SMS. */
  howToStop: string;
  didYouMean: (value: string) => string;
  /** What was read is shown back before it is taken; where it may be either of two; where it names a span. */
  isThatRight: (value: string) => string;
  whichOf: (one: string, other: string) => string;
  whichDay: Which;
  whichTime: Which;
  stillRight: (value: string) => string;
  /** After some of several options were named. */
  anythingElse: string;
  /** Above passages that may be meant, and the choice below them; where the sources say nothing. */
  sources: { which: string; none: string; unknown: string };
  stopped: (client: string) => string;
  /** Asked of whoever may want no more messages; said to whoever wants them all the same. */
  wantNoMore: (client: string) => string;
  goesOn: string;
  startedAgain: (client: string) => string;
  help: (client: string, phone: string) => string;
  /** Below the wording of a list that is confirmed. */
  confirmList: (wording: string) => string;
  joinedList: (list: string) => string;
  leftList: (list: string) => string;
}

export const PHRASES: Record<Language, Phrases> = {
  en: {
    yes: 'Yes',
    no: 'No',
    skip: 'Skip',
    more: 'More',
    first: 'Back to the first',
    moreHere: 'Here are more.',
    writeForMore: (word, left) => `Write ${word} for ${left} more.`,
    timesFree: 'These times are free.',
    nearestFree: 'Nothing is free then. These are the nearest.',
    timeGone: 'That time is not free any more. These are.',
    cancelOrMove: {
      question: 'Would you like to cancel, or come at another time?',
      cancel: 'Cancel',
      move: 'Another time',
      cancelled: 'It is cancelled.',
    },
    choose: 'Choose',
    howToStop: 'Write STOP to end these messages.',
    didYouMean: (value) => `Did you mean ${value}?`,
    isThatRight: (value) => `${value}, is that right?`,
    whichOf: (one, other) => `Do you mean ${one} or ${other}?`,
    whichDay: {
      between: (from, to) => `Which day, between ${from} and ${to}?`,
      from: (from) => `Which day, from ${from} on?`,
      until: (to) => `Which day, up to ${to}?`,
    },
    whichTime: {
      between: (from, to) => `What time, between ${from} and ${to}?`,
      from: (from) => `What time, from ${from} on?`,
      until: (to) => `What time, up to ${to}?`,
    },
    stillRight: (value) => `We have ${value}. Is that still right?`,
    anythingElse: 'Anything else?',
    sources: { which: 'Do you mean one of these?', none: 'None of these', unknown: 'I do not know that.' },
    stopped: (client) => `You will get no more messages from ${client}. Write START to get them again.`,
    wantNoMore: (client) =>
      `Do you want no more messages from ${client}? Write YES for none, or NO to go on.`,
    goesOn: 'All right, nothing changes.',
    startedAgain: (client) => `You get messages from ${client} again. Write STOP to end them.`,
    help: (client, phone) =>
      `This is ${client}${phone ? `, ${phone}` : ''}. Write STOP to get no more messages.`,
    confirmList: (wording) => `${wording} Write YES to agree.`,
    joinedList: (list) => `You are on the list “${list}”. Write STOP ${list} to leave it.`,
    leftList: (list) => `You are off the list “${list}”.`,
  },
  es: {
    yes: 'Sí',
    no: 'No',
    skip: 'Omitir',
    more: 'Más',
    first: 'Volver al inicio',
    moreHere: 'Aquí hay más.',
    writeForMore: (word, left) => `Escriba ${word} para ver ${left} más.`,
    timesFree: 'Estas horas están libres.',
    nearestFree: 'Entonces no hay nada libre. Estas son las más cercanas.',
    timeGone: 'Esa hora ya no está libre. Estas sí.',
    cancelOrMove: {
      question: '¿Prefiere cancelar o venir a otra hora?',
      cancel: 'Cancelar',
      move: 'Otra hora',
      cancelled: 'Queda cancelado.',
    },
    choose: 'Elegir',
    howToStop: 'Escriba STOP para terminar.',
    didYouMean: (value) => `¿Quiere decir ${value}?`,
    isThatRight: (value) => `${value}, ¿es correcto?`,
    whichOf: (one, other) => `¿Quiere decir ${one} o ${other}?`,
    whichDay: {
      between: (from, to) => `¿Qué día, entre el ${from} y el ${to}?`,
      from: (from) => `¿Qué día, a partir del ${from}?`,
      until: (to) => `¿Qué día, hasta el ${to}?`,
    },
    whichTime: {
      between: (from, to) => `¿A qué hora, entre las ${from} y las ${to}?`,
      from: (from) => `¿A qué hora, a partir de las ${from}?`,
      until: (to) => `¿A qué hora, hasta las ${to}?`,
    },
    stillRight: (value) => `Tenemos ${value}. ¿Sigue siendo correcto?`,
    anythingElse: '¿Algo más?',
    sources: { which: '¿Se refiere a algo de esto?', none: 'Nada de esto', unknown: 'Eso no lo sé.' },
    stopped: (client) => `No recibirá más mensajes de ${client}. Escriba START para volver a recibirlos.`,
    wantNoMore: (client) =>
      `¿No quiere recibir más mensajes de ${client}? Escriba SÍ para no recibirlos o NO para seguir.`,
    goesOn: 'De acuerdo, nada cambia.',
    startedAgain: (client) => `Vuelve a recibir mensajes de ${client}. Escriba STOP para terminar.`,
    help: (client, phone) =>
      `Esto es ${client}${phone ? `, ${phone}` : ''}. Escriba STOP para no recibir más mensajes.`,
    confirmList: (wording) => `${wording} Escriba SÍ para aceptar.`,
    joinedList: (list) => `Está en la lista «${list}». Escriba BAJA ${list} para salir de ella.`,
    leftList: (list) => `Ya no está en la lista «${list}».`,
  },
  fr: {
    yes: 'Oui',
    no: 'Non',
    skip: 'Passer',
    more: 'Plus',
    first: 'Revenir au début',
    moreHere: 'En voici d’autres.',
    writeForMore: (word, left) => `Écrivez ${word} pour ${left} de plus.`,
    timesFree: 'Ces horaires sont libres.',
    nearestFree: 'Rien n’est libre à ce moment-là. Voici les plus proches.',
    timeGone: 'Cet horaire n’est plus libre. Ceux-ci le sont.',
    cancelOrMove: {
      question: 'Voulez-vous annuler, ou venir à un autre moment ?',
      cancel: 'Annuler',
      move: 'Autre moment',
      cancelled: 'C’est annulé.',
    },
    choose: 'Choisir',
    howToStop: 'Écrivez STOP pour arrêter.',
    didYouMean: (value) => `Vouliez-vous dire ${value} ?`,
    isThatRight: (value) => `${value}, est-ce exact ?`,
    whichOf: (one, other) => `Voulez-vous dire ${one} ou ${other} ?`,
    whichDay: {
      between: (from, to) => `Quel jour, entre le ${from} et le ${to} ?`,
      from: (from) => `Quel jour, à partir du ${from} ?`,
      until: (to) => `Quel jour, jusqu’au ${to} ?`,
    },
    whichTime: {
      between: (from, to) => `À quelle heure, entre ${from} et ${to} ?`,
      from: (from) => `À quelle heure, à partir de ${from} ?`,
      until: (to) => `À quelle heure, jusqu’à ${to} ?`,
    },
    stillRight: (value) => `Nous avons ${value}. Est-ce toujours exact ?`,
    anythingElse: 'Autre chose ?',
    sources: { which: 'Est-ce l’un de ceux-ci ?', none: 'Rien de cela', unknown: 'Je ne le sais pas.' },
    stopped: (client) =>
      `Vous ne recevrez plus de messages de ${client}. Écrivez START pour les recevoir à nouveau.`,
    wantNoMore: (client) =>
      `Ne voulez-vous plus de messages de ${client} ? Écrivez OUI pour ne plus en recevoir ou NON pour continuer.`,
    goesOn: 'D’accord, rien ne change.',
    startedAgain: (client) => `Vous recevez à nouveau les messages de ${client}. Écrivez STOP pour arrêter.`,
    help: (client, phone) =>
      `Ici ${client}${phone ? `, ${phone}` : ''}. Écrivez STOP pour ne plus recevoir de messages.`,
    confirmList: (wording) => `${wording} Écrivez OUI pour accepter.`,
    joinedList: (list) => `Vous êtes inscrit à la liste « ${list} ». Écrivez ARRET ${list} pour la quitter.`,
    leftList: (list) => `Vous n’êtes plus sur la liste « ${list} ».`,
  },
  de: {
    yes: 'Ja',
    no: 'Nein',
    skip: 'Überspringen',
    more: 'Mehr',
    first: 'Zurück zum Anfang',
    moreHere: 'Hier sind weitere.',
    writeForMore: (word, left) => `Mit ${word} kommen ${left} weitere.`,
    timesFree: 'Diese Zeiten sind frei.',
    nearestFree: 'Dann ist nichts frei. Das sind die nächsten Zeiten.',
    timeGone: 'Diese Zeit ist nicht mehr frei. Diese sind es.',
    cancelOrMove: {
      question: 'Möchten Sie absagen oder zu einer anderen Zeit kommen?',
      cancel: 'Absagen',
      move: 'Andere Zeit',
      cancelled: 'Es ist abgesagt.',
    },
    choose: 'Auswählen',
    howToStop: 'Mit STOP beenden Sie das.',
    didYouMean: (value) => `Meinten Sie ${value}?`,
    isThatRight: (value) => `${value}, stimmt das?`,
    whichOf: (one, other) => `Meinen Sie ${one} oder ${other}?`,
    whichDay: {
      between: (from, to) => `An welchem Tag zwischen dem ${from} und dem ${to}?`,
      from: (from) => `An welchem Tag ab dem ${from}?`,
      until: (to) => `An welchem Tag bis zum ${to}?`,
    },
    whichTime: {
      between: (from, to) => `Um wie viel Uhr, zwischen ${from} und ${to}?`,
      from: (from) => `Um wie viel Uhr, ab ${from}?`,
      until: (to) => `Um wie viel Uhr, bis ${to}?`,
    },
    stillRight: (value) => `Bei uns steht ${value}. Stimmt das noch?`,
    anythingElse: 'Sonst noch etwas?',
    sources: { which: 'Meinen Sie etwas davon?', none: 'Nichts davon', unknown: 'Das weiß ich nicht.' },
    stopped: (client) =>
      `Sie bekommen keine Nachrichten mehr von ${client}. Mit START bekommen Sie sie wieder.`,
    wantNoMore: (client) =>
      `Möchten Sie keine Nachrichten mehr von ${client}? Schreiben Sie JA für keine mehr oder NEIN, wenn es so bleiben soll.`,
    goesOn: 'Gut, es bleibt, wie es ist.',
    startedAgain: (client) => `Sie bekommen wieder Nachrichten von ${client}. Mit STOP beenden Sie das.`,
    help: (client, phone) =>
      `Hier ist ${client}${phone ? `, ${phone}` : ''}. Mit STOP bekommen Sie keine Nachrichten mehr.`,
    confirmList: (wording) => `${wording} Mit JA stimmen Sie zu.`,
    joinedList: (list) => `Sie stehen auf der Liste „${list}“. Mit STOPP ${list} verlassen Sie sie.`,
    leftList: (list) => `Sie stehen nicht mehr auf der Liste „${list}“.`,
  },
  pt: {
    yes: 'Sim',
    no: 'Não',
    skip: 'Pular',
    more: 'Mais',
    first: 'Voltar ao início',
    moreHere: 'Aqui estão mais.',
    writeForMore: (word, left) => `Escreva ${word} para ver mais ${left}.`,
    timesFree: 'Estes horários estão livres.',
    nearestFree: 'Nessa altura não há nada livre. Estes são os mais próximos.',
    timeGone: 'Esse horário já não está livre. Estes estão.',
    cancelOrMove: {
      question: 'Quer cancelar ou vir noutro horário?',
      cancel: 'Cancelar',
      move: 'Outro horário',
      cancelled: 'Está cancelado.',
    },
    choose: 'Escolher',
    howToStop: 'Escreva STOP para terminar.',
    didYouMean: (value) => `Quis dizer ${value}?`,
    isThatRight: (value) => `${value}, está certo?`,
    whichOf: (one, other) => `Quer dizer ${one} ou ${other}?`,
    whichDay: {
      between: (from, to) => `Que dia, entre ${from} e ${to}?`,
      from: (from) => `Que dia, a partir de ${from}?`,
      until: (to) => `Que dia, até ${to}?`,
    },
    whichTime: {
      between: (from, to) => `A que horas, entre as ${from} e as ${to}?`,
      from: (from) => `A que horas, a partir das ${from}?`,
      until: (to) => `A que horas, até as ${to}?`,
    },
    stillRight: (value) => `Temos ${value}. Ainda está certo?`,
    anythingElse: 'Mais alguma coisa?',
    sources: { which: 'Refere-se a algo disto?', none: 'Nada disto', unknown: 'Isso eu não sei.' },
    stopped: (client) => `Não receberá mais mensagens de ${client}. Escreva START para voltar a recebê-las.`,
    wantNoMore: (client) =>
      `Não quer receber mais mensagens de ${client}? Escreva SIM para não receber ou NÃO para continuar.`,
    goesOn: 'Certo, nada muda.',
    startedAgain: (client) => `Volta a receber mensagens de ${client}. Escreva STOP para terminar.`,
    help: (client, phone) =>
      `Aqui é ${client}${phone ? `, ${phone}` : ''}. Escreva STOP para não receber mais mensagens.`,
    confirmList: (wording) => `${wording} Escreva SIM para aceitar.`,
    joinedList: (list) => `Está na lista “${list}”. Escreva SAIR ${list} para sair dela.`,
    leftList: (list) => `Já não está na lista “${list}”.`,
  },
  it: {
    yes: 'Sì',
    no: 'No',
    skip: 'Salta',
    more: 'Altro',
    first: 'Torna all’inizio',
    moreHere: 'Eccone altri.',
    writeForMore: (word, left) => `Scriva ${word} per altri ${left}.`,
    timesFree: 'Questi orari sono liberi.',
    nearestFree: 'In quel momento non c’è nulla di libero. Questi sono i più vicini.',
    timeGone: 'Quell’orario non è più libero. Questi sì.',
    cancelOrMove: {
      question: 'Vuole annullare o venire in un altro momento?',
      cancel: 'Annulla',
      move: 'Altro orario',
      cancelled: 'È annullato.',
    },
    choose: 'Scegli',
    howToStop: 'Scriva STOP per smettere.',
    didYouMean: (value) => `Intendeva ${value}?`,
    isThatRight: (value) => `${value}, è giusto?`,
    whichOf: (one, other) => `Intende ${one} o ${other}?`,
    whichDay: {
      between: (from, to) => `Che giorno, tra il ${from} e il ${to}?`,
      from: (from) => `Che giorno, dal ${from} in poi?`,
      until: (to) => `Che giorno, entro il ${to}?`,
    },
    whichTime: {
      between: (from, to) => `A che ora, tra le ${from} e le ${to}?`,
      from: (from) => `A che ora, dalle ${from} in poi?`,
      until: (to) => `A che ora, entro le ${to}?`,
    },
    stillRight: (value) => `Abbiamo ${value}. È ancora giusto?`,
    anythingElse: 'Altro?',
    sources: { which: 'Intende una di queste cose?', none: 'Niente di questo', unknown: 'Questo non lo so.' },
    stopped: (client) => `Non riceverà più messaggi da ${client}. Scriva START per riceverli di nuovo.`,
    wantNoMore: (client) =>
      `Non vuole più messaggi da ${client}? Scriva SÌ per non riceverne più o NO per continuare.`,
    goesOn: 'Va bene, non cambia nulla.',
    startedAgain: (client) => `Riceve di nuovo i messaggi di ${client}. Scriva STOP per smettere.`,
    help: (client, phone) =>
      `Qui è ${client}${phone ? `, ${phone}` : ''}. Scriva STOP per non ricevere più messaggi.`,
    confirmList: (wording) => `${wording} Scriva SÌ per accettare.`,
    joinedList: (list) => `È nella lista “${list}”. Scriva FERMA ${list} per lasciarla.`,
    leftList: (list) => `Non è più nella lista “${list}”.`,
  },
};

/** Whether a whole message asks for further choices, in any of our languages. */
export function isMoreWord(text: string): boolean {
  const said = fold(text.slice(0, 40));
  return Object.values(PHRASES).some((words) => fold(words.more) === said);
}

/** The sentences in a language, or in English where we have none in it. */
export function phrases(language: string): Phrases {
  return PHRASES[language as Language] ?? PHRASES.en;
}
