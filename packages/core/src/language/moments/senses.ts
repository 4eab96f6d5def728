import { firstWords } from '../firstWords';
import { LANGUAGES, type Language } from '../../people/client';

export type Unit = 'minute' | 'hour' | 'day' | 'week' | 'month' | 'year';
export type PartName =
  | 'early morning'
  | 'morning'
  | 'mid-morning'
  | 'late morning'
  | 'lunch'
  | 'early afternoon'
  | 'afternoon'
  | 'late afternoon'
  | 'long afternoon'
  | 'evening'
  | 'night';

/**
 * What a word may mean in a sentence about days and times. `n`: 1 to 7 from Monday, 1 to 12 from January,
 * days from today, or an ordinal.
 */
export type Sense =
  | Counted<'weekday'>
  | Counted<'month'>
  | Counted<'ahead'>
  | Counted<'ordinal'>
  | Counted<'number'>
  | { is: 'unit'; unit: Unit; times: number }
  | { is: 'part'; part: PartName }
  | { is: 'named'; day: string }
  /** A holiday of the client's country: the days on which it falls. */
  | { is: 'holiday'; days: readonly string[] }
  | { [P in Plain]: { is: P } }[Plain];
interface Counted<Is> {
  is: Is;
  n: number;
}
/** Words with no more to them than what they are. */
export type Plain =
  // "Coming" is the very next one.
  | ('next' | 'this' | 'last' | 'coming' | 'the one after' | 'weekend')
  | ('early' | 'mid' | 'late' | 'end')
  | ('in' | 'ago' | 'from' | 'after' | 'before' | 'by' | 'between' | 'and' | 'or' | 'not')
  | ('at' | 'about' | 'the' | 'of' | 'filler')
  | ('half' | 'half to' | 'quarter' | 'past' | 'to' | 'less' | 'clock' | 'am' | 'pm')
  | ('noon' | 'midnight' | 'now');

/** The words of one language, by what they mean; commas between, and in rows in their order from 1. */
interface Words {
  weekdays: string;
  months: string;
  /** How the two are cut short where a figure stands beside them; in English always. */
  short?: { weekdays: string; months: string };
  /** Two days before yesterday's morrow and on: the day before yesterday, yesterday, today and on. */
  days: string;
  units: Record<Unit, string>;
  /** Units of more than one: weeks in a fortnight. */
  fortnight: string;
  /** From the first on, in rows. */
  ordinals: string;
  parts: Partial<Record<PartName, string>>;
  plain: Partial<Record<Plain, string>>;
  /** Days with a name of their own, by their key in `namedDays.ts`. */
  named: Record<string, string>;
}

const WORDS: Record<Language, Words> = {
  en: {
    weekdays:
      'monday, mon, mondays | tuesday, tue, tues, tuseday | wednesday, wed, weds, wednsday | thursday, thu, thur, thurs, thursdy | friday, fri, firday | saturday, sat | sunday, sun',
    months:
      'january, jan | february, feb, febuary | march, mar | april, apr | may | june, jun | july, jul | august, aug | september, sep, sept | october, oct | november, nov | december, dec',
    days: 'day before yesterday | yesterday, yest | today, tday, 2day | tomorrow, tomorow, tommorow, tommorrow, tmrw, tmr, tmw, tomoz, 2moro, 2morrow | day after tomorrow',
    units: {
      minute: 'minute, minutes, min, mins',
      hour: 'hour, hours, hr, hrs',
      day: 'day, days',
      week: 'week, weeks, wk, wks',
      month: 'month, months',
      year: 'year, years, yr, yrs',
    },
    fortnight: 'fortnight, fortnights',
    ordinals:
      'first | second | third | fourth | fifth | sixth | seventh | eighth | ninth | tenth | eleventh | twelfth | thirteenth | fourteenth | fifteenth | sixteenth | seventeenth | eighteenth | nineteenth | twentieth',
    parts: {
      'early morning': 'first thing, early morning, early in the morning, first thing in the morning',
      morning: 'morning, mornings, morn',
      'mid-morning': 'mid morning, midmorning',
      'late morning': 'late morning, before lunch',
      lunch: 'lunch, lunchtime, lunch time',
      'early afternoon': 'early afternoon, after lunch, after lunchtime',
      afternoon: 'afternoon, afternoons, arvo, aft',
      'late afternoon': 'late afternoon, after work, teatime, tea time, after school',
      evening: 'evening, evenings, eve, early evening, late evening',
      night: 'night, nite, late night',
    },
    plain: {
      next: 'next, nxt, following',
      this: 'this',
      last: 'last',
      coming: 'coming, this coming, upcoming',
      'the one after':
        'the one after, one after, the one after that, one after that, following one, the following one',
      weekend: 'weekend, wkend, weekends',
      early: 'early, beginning of, start of, early in, start, beginning',
      mid: 'mid, middle of, middle',
      late: 'late, later, late in, towards the end of',
      end: 'end of, end',
      in: 'in, within',
      ago: 'ago, back',
      from: 'from, from now, on, as of',
      after: 'after, past, any time after, anytime after, later than',
      before: 'before, earlier than',
      by: 'by, until, till',
      between: 'between',
      and: 'and',
      or: 'or',
      not: 'not',
      at: 'at',
      about: 'about, around, roughly, say, ish, ca, circa, maybe',
      the: 'the',
      of: 'of, in, on, for',
      filler: 'please, pls, thanks, um, er, ok, day, then, time, oclock',
      half: 'half, half past',
      quarter: 'quarter, a quarter',
      past: 'past',
      to: 'to',
      clock: 'oclock, h, hrs, hours',
      am: 'am, a m',
      pm: 'pm, p m',
      noon: 'noon, midday, mid day',
      midnight: 'midnight',
      now: 'now, right now, straight away',
    },
    named: {
      'new year': 'new year, new years, new years day, new year day',
      valentine: 'valentine, valentines, valentines day',
      'good friday': 'good friday',
      easter: 'easter, easter sunday',
      'easter monday': 'easter monday',
      ascension: 'ascension day',
      'whit monday': 'whit monday',
      halloween: 'halloween',
      'all saints': 'all saints, all saints day',
      'christmas eve': 'christmas eve, xmas eve',
      christmas: 'christmas, xmas, christmas day, xmas day',
      'boxing day': 'boxing day',
      'new years eve': 'new years eve, new year eve, nye',
    },
  },
  es: {
    weekdays: 'lunes | martes | miercoles | jueves | viernes | sabado, sabados | domingo, domingos',
    months:
      'enero | febrero | marzo | abril | mayo | junio | julio | agosto | septiembre, setiembre | octubre | noviembre | diciembre',
    short: {
      weekdays: 'lun | mar | mie | jue | vie | sab | dom',
      months: 'ene | feb | mar | abr | may | jun | jul | ago | sep, sept, set | oct | nov | dic',
    },
    days: 'anteayer, antes de ayer | ayer | hoy | manana | pasado manana',
    units: {
      minute: 'minuto, minutos',
      hour: 'hora, horas',
      day: 'dia, dias',
      week: 'semana, semanas',
      month: 'mes, meses',
      year: 'ano, anos',
    },
    fortnight: '',
    ordinals: 'primero, primer, primera | segundo | tercero, tercer | cuarto | quinto',
    parts: {
      'early morning': 'temprano, a primera hora, primera hora de la manana',
      morning: 'por la manana, de la manana, en la manana, a la manana',
      lunch: 'a la hora de comer',
      'early afternoon': 'despues de comer',
      'long afternoon': 'tarde, por la tarde, de la tarde, en la tarde, esta tarde',
      'late afternoon': 'despues del trabajo',
      evening: 'noche, por la noche, de la noche, en la noche',
    },
    plain: {
      next: 'proximo, proxima, siguiente, que viene',
      this: 'este, esta',
      last: 'ultimo, ultima, pasado, pasada',
      'the one after': 'el siguiente, sino el siguiente',
      weekend: 'fin de semana, finde',
      early: 'a principios de, principios de, a comienzos de',
      mid: 'a mediados de, mediados de',
      late: 'a finales de, finales de',
      end: 'a fin de, fin de, final de',
      in: 'en, dentro de',
      ago: 'hace',
      from: 'desde, a partir de',
      after: 'despues de, despues del, tras',
      before: 'antes de, antes del',
      by: 'hasta, hasta el',
      between: 'entre',
      and: 'y',
      or: 'o',
      not: 'no',
      at: 'a las, a la, las, a',
      about: 'sobre, hacia, alrededor de, mas o menos',
      the: 'el, la, los, las, dia, el dia',
      of: 'de, del',
      filler: 'por, favor, en',
      half: 'media',
      quarter: 'cuarto',
      less: 'menos',
      clock: 'horas, h',
      noon: 'mediodia',
      midnight: 'medianoche',
      now: 'ahora',
    },
    named: {
      'new year': 'ano nuevo',
      epiphany: 'reyes, dia de reyes',
      'good friday': 'viernes santo',
      easter: 'pascua, domingo de pascua',
      'easter monday': 'lunes de pascua',
      'all saints': 'todos los santos',
      'christmas eve': 'nochebuena',
      christmas: 'navidad',
      'new years eve': 'nochevieja',
      assumption: 'la asuncion',
    },
  },
  fr: {
    weekdays: 'lundi | mardi | mercredi | jeudi | vendredi | samedi | dimanche',
    months:
      'janvier | fevrier | mars | avril | mai | juin | juillet | aout | septembre | octobre | novembre | decembre',
    short: {
      weekdays: 'lun | mar | mer | jeu | ven | sam | dim',
      months:
        'janv, jan | fevr, fev | mar | avr | mai | juin | juil, jul | aou | sept, sep | oct | nov | dec',
    },
    days: 'avant hier | hier | aujourd hui, auj | demain | apres demain',
    units: {
      minute: 'minute, minutes',
      hour: 'heure, heures',
      day: 'jour, jours',
      week: 'semaine, semaines',
      month: 'mois',
      year: 'an, ans, annee, annees',
    },
    fortnight: '',
    ordinals: 'premier, premiere, 1er | deuxieme, second, seconde | troisieme | quatrieme | cinquieme',
    parts: {
      'early morning': 'tot le matin, a la premiere heure',
      morning: 'matin, matinee, le matin, du matin, au matin',
      lunch: 'a l heure du dejeuner',
      'early afternoon': 'apres le dejeuner, debut d apres midi',
      afternoon: 'apres midi, l apres midi, de l apres midi',
      'late afternoon': 'fin d apres midi, apres le travail',
      evening: 'soir, soiree, du soir, le soir',
      night: 'nuit',
    },
    plain: {
      next: 'prochain, prochaine, suivant, suivante',
      this: 'ce, cet, cette',
      last: 'dernier, derniere, passe, passee',
      'the one after': 'celui d apres, le suivant',
      weekend: 'week end, weekend',
      early: 'debut, au debut de, debut de',
      mid: 'mi, milieu, milieu de',
      end: 'fin, a la fin de, a la fin du, fin de, fin du',
      in: 'dans, en, d ici',
      ago: 'il y a',
      from: 'a partir de, a partir du, des',
      after: 'apres',
      before: 'avant',
      by: 'jusqu au, jusqu a, d ici, d ici a',
      between: 'entre',
      and: 'et',
      or: 'ou',
      not: 'pas',
      at: 'a',
      about: 'vers, environ, autour de',
      the: 'le, la, l, les',
      of: 'de, d, du, des',
      filler: 'svp, stp, merci',
      half: 'demie, demi, et demie, et demi',
      quarter: 'quart, et quart, le quart, un quart',
      less: 'moins',
      clock: 'heures, heure, h',
      noon: 'midi',
      midnight: 'minuit',
      now: 'maintenant',
    },
    named: {
      'new year': 'jour de l an, nouvel an, le jour de l an',
      'good friday': 'vendredi saint',
      easter: 'paques',
      'easter monday': 'lundi de paques',
      ascension: 'ascension',
      'whit monday': 'lundi de pentecote',
      assumption: 'assomption',
      'all saints': 'toussaint',
      'christmas eve': 'veille de noel, reveillon de noel',
      christmas: 'noel',
      'new years eve': 'saint sylvestre, veille du nouvel an',
    },
  },
  de: {
    weekdays:
      'montag, montags | dienstag, dienstags | mittwoch, mittwochs | donnerstag, donnerstags | freitag, freitags | samstag, sonnabend, samstags | sonntag, sonntags',
    months:
      'januar, janner | februar | marz, maerz | april | mai | juni | juli | august | september | oktober | november | dezember',
    short: {
      weekdays: 'mo | di | mi | do | fr | sa | so',
      months: 'jan | feb | mar, mrz | apr | mai | jun | jul | aug | sep, sept | okt | nov | dez',
    },
    days: 'vorgestern | gestern | heute | morgen | ubermorgen, uebermorgen',
    units: {
      minute: 'minute, minuten',
      hour: 'stunde, stunden',
      day: 'tag, tage, tagen',
      week: 'woche, wochen',
      month: 'monat, monate, monaten, monats',
      year: 'jahr, jahre, jahren',
    },
    fortnight: '',
    ordinals:
      'erster, ersten, erste, erstes | zweiter, zweiten, zweite | dritter, dritten, dritte | vierter, vierten, vierte',
    parts: {
      'early morning': 'fruh, in der fruh, fruhmorgens',
      morning: 'am morgen, morgens, vormittag, vormittags, am vormittag, fruh morgens',
      lunch: 'mittags, mittagszeit, in der mittagspause',
      'early afternoon': 'nach dem mittagessen, am fruhen nachmittag',
      afternoon: 'nachmittag, nachmittags, am nachmittag',
      'late afternoon': 'nach der arbeit, am spaten nachmittag, feierabend',
      evening: 'abend, abends, am abend',
      night: 'nacht, nachts, in der nacht',
    },
    plain: {
      next: 'nachste, nachsten, nachster, nachstes, naechste, naechsten',
      this: 'diese, diesen, dieser, dieses, diesem',
      last: 'letzte, letzten, letzter, letztes, vergangene, vergangenen',
      coming: 'kommende, kommenden, kommender',
      'the one after': 'den danach, der danach, sondern den danach, ubernachsten',
      weekend: 'wochenende',
      early: 'anfang',
      mid: 'mitte',
      late: 'spat',
      end: 'ende',
      in: 'in',
      ago: 'vor',
      from: 'ab, von',
      after: 'nach',
      before: 'vor',
      by: 'bis, bis zum, spatestens',
      between: 'zwischen',
      and: 'und',
      or: 'oder',
      not: 'nicht',
      at: 'um, am, zum',
      about: 'gegen, ungefahr, circa, ca, etwa, so',
      the: 'der, den, dem, die, das, am',
      of: 'des, der, im, vom, von',
      filler: 'bitte, danke, mal',
      'half to': 'halb',
      quarter: 'viertel',
      past: 'nach',
      to: 'vor',
      clock: 'uhr, h',
      noon: 'mittag, am mittag',
      midnight: 'mitternacht',
      now: 'jetzt, sofort',
    },
    named: {
      'new year': 'neujahr, neujahrstag',
      epiphany: 'heilige drei konige',
      'good friday': 'karfreitag',
      easter: 'ostern, ostersonntag',
      'easter monday': 'ostermontag',
      ascension: 'himmelfahrt, christi himmelfahrt',
      'whit monday': 'pfingstmontag',
      'all saints': 'allerheiligen',
      'christmas eve': 'heiligabend, heilig abend, weihnachtsabend',
      christmas: 'weihnachten, erster weihnachtstag, erster weihnachtsfeiertag',
      'boxing day': 'zweiter weihnachtstag, zweiter weihnachtsfeiertag',
      'new years eve': 'silvester',
    },
  },
  pt: {
    weekdays:
      'segunda feira, segunda | terca feira, terca | quarta feira, quarta | quinta feira, quinta | sexta feira, sexta | sabado | domingo',
    months:
      'janeiro | fevereiro | marco | abril | maio | junho | julho | agosto | setembro | outubro | novembro | dezembro',
    short: {
      weekdays: 'seg | ter | qua | qui | sex | sab | dom',
      months: 'jan | fev | mar | abr | mai | jun | jul | ago | set | out | nov | dez',
    },
    days: 'anteontem | ontem | hoje | amanha | depois de amanha',
    units: {
      minute: 'minuto, minutos',
      hour: 'hora, horas',
      day: 'dia, dias',
      week: 'semana, semanas',
      month: 'mes, meses',
      year: 'ano, anos',
    },
    fortnight: '',
    ordinals: 'primeiro, primeira | segundo | terceiro, terceira | quarto',
    parts: {
      'early morning': 'cedo, de manha cedo, logo cedo',
      morning: 'manha, de manha, da manha, pela manha',
      lunch: 'na hora do almoco',
      'early afternoon': 'depois do almoco',
      afternoon: 'tarde, da tarde, a tarde, de tarde',
      'late afternoon': 'fim da tarde, final da tarde, depois do trabalho',
      evening: 'noite, da noite, a noite, de noite',
    },
    plain: {
      next: 'proximo, proxima, que vem, seguinte',
      this: 'este, esta, esse, essa, neste, nesta, nessa',
      last: 'ultimo, ultima, passado, passada',
      'the one after': 'a seguinte, na seguinte',
      weekend: 'fim de semana, final de semana',
      early: 'inicio da, inicio de, no inicio da, no inicio de, comeco de, comeco da',
      mid: 'meados de, meio da',
      end: 'fim do, fim de, final do, no fim do, fim da',
      in: 'em, daqui a, dentro de',
      ago: 'ha, atras',
      from: 'a partir de, a partir das',
      after: 'depois de, depois do, depois das, apos',
      before: 'antes de, antes do, antes das',
      by: 'ate, ate a, ate o',
      between: 'entre',
      and: 'e',
      or: 'ou',
      not: 'nao',
      at: 'as, a',
      about: 'la pelas, por volta das, cerca das',
      the: 'o, a, no, na, dia, no dia',
      of: 'de, do, da',
      filler: 'favor, por, feira',
      half: 'meia, e meia',
      quarter: 'quarto, um quarto, e um quarto',
      to: 'para as, para a, pras',
      clock: 'horas, h, hora',
      noon: 'meio dia',
      midnight: 'meia noite',
      now: 'agora',
    },
    named: {
      'new year': 'ano novo',
      'good friday': 'sexta feira santa, sexta santa',
      easter: 'pascoa',
      'all saints': 'todos os santos',
      'christmas eve': 'vespera de natal',
      christmas: 'natal',
      'new years eve': 'vespera de ano novo, reveillon',
    },
  },
  it: {
    weekdays: 'lunedi | martedi | mercoledi | giovedi | venerdi | sabato | domenica',
    months:
      'gennaio | febbraio | marzo | aprile | maggio | giugno | luglio | agosto | settembre | ottobre | novembre | dicembre',
    short: {
      weekdays: 'lun | mar | mer | gio | ven | sab | dom',
      months: 'gen | feb | mar | apr | mag | giu | lug | ago | set, sett | ott | nov | dic',
    },
    days: 'l altro ieri, altroieri | ieri | oggi | domani | dopodomani, dopo domani',
    units: {
      minute: 'minuto, minuti',
      hour: 'ora, ore',
      day: 'giorno, giorni',
      week: 'settimana, settimane',
      month: 'mese, mesi',
      year: 'anno, anni',
    },
    fortnight: '',
    ordinals: 'primo, prima | secondo, seconda | terzo, terza | quarto, quarta',
    parts: {
      'early morning': 'presto, di prima mattina',
      morning: 'mattina, mattino, di mattina, del mattino, stamattina',
      lunch: 'a pranzo',
      'early afternoon': 'dopo pranzo, primo pomeriggio',
      afternoon: 'pomeriggio, del pomeriggio, nel pomeriggio, di pomeriggio',
      'late afternoon': 'tardo pomeriggio, dopo il lavoro',
      evening: 'sera, di sera, della sera, serata, stasera',
      night: 'notte, di notte',
    },
    plain: {
      next: 'prossimo, prossima, seguente',
      this: 'questo, questa',
      last: 'ultimo, ultima, scorso, scorsa',
      'the one after': 'quello dopo, quella dopo',
      weekend: 'fine settimana, weekend, week end',
      early: 'inizio, a inizio, inizio della, a inizio della',
      mid: 'meta, a meta',
      end: 'fine, a fine, alla fine del, fine del',
      in: 'tra, fra, in, entro',
      ago: 'fa',
      from: 'da, dalle, a partire da',
      after: 'dopo, dopo il, dopo le',
      before: 'prima di, prima delle, prima del',
      by: 'entro, entro il, entro le, fino a, fino al, fino alle',
      between: 'tra, fra',
      and: 'e',
      or: 'o, oppure',
      not: 'non',
      at: 'alle, all, alla, a',
      about: 'verso, verso le, circa, intorno alle',
      the: 'il, lo, la, l, le, il giorno',
      of: 'di, del, della, d',
      filler: 'per, favore, nel',
      half: 'e mezza, e mezzo, mezza, mezzo',
      quarter: 'un quarto, e un quarto',
      less: 'meno',
      clock: 'ore, h',
      noon: 'mezzogiorno',
      midnight: 'mezzanotte',
      now: 'adesso, ora, subito',
    },
    named: {
      'new year': 'capodanno',
      epiphany: 'epifania',
      'good friday': 'venerdi santo',
      easter: 'pasqua',
      'easter monday': 'pasquetta, lunedi di pasqua, lunedi dell angelo',
      assumption: 'ferragosto',
      'all saints': 'ognissanti',
      'christmas eve': 'vigilia di natale',
      christmas: 'natale',
      'boxing day': 'santo stefano',
      'new years eve': 'san silvestro',
    },
  },
};

type Senses = Map<string, Sense[]>;
interface Lexicon {
  senses: Senses;
  /** Of words that are cut short. */
  short: Senses;
}

function lexiconOf(words: Words): Lexicon {
  const senses: Senses = new Map();
  const short: Senses = new Map();
  const add = (list: string | undefined, sense: Sense, to = senses) => {
    for (const word of (list ?? '').split(',').map((each) => each.trim()))
      if (word) to.set(word, [...(to.get(word) ?? []), sense]);
  };
  const rows = (all: string, sense: (at: number) => Sense, to = senses) =>
    all.split('|').forEach((list, at) => add(list, sense(at), to));
  const weekday = (at: number): Sense => ({ is: 'weekday', n: at + 1 });
  const month = (at: number): Sense => ({ is: 'month', n: at + 1 });
  rows(words.weekdays, weekday);
  rows(words.months, month);
  if (words.short) {
    rows(words.short.weekdays, weekday, short);
    rows(words.short.months, month, short);
  }
  rows(words.days, (at) => ({ is: 'ahead', n: at - 2 }));
  rows(words.ordinals, (at) => ({ is: 'ordinal', n: at + 1 }));
  for (const [unit, list] of Object.entries(words.units))
    add(list, { is: 'unit', unit: unit as Unit, times: 1 });
  add(words.fortnight, { is: 'unit', unit: 'week', times: 2 });
  for (const [part, list] of Object.entries(words.parts)) add(list, { is: 'part', part: part as PartName });
  for (const [is, list] of Object.entries(words.plain)) add(list, { is: is as Plain } as Sense);
  for (const [day, list] of Object.entries(words.named)) add(list, { is: 'named', day });
  return { senses, short };
}

/** What a word that is cut short may mean in the person's language: "mar 1 dic". */
export function shortSenses(word: string, language: string): readonly Sense[] {
  return (WORDS[language as Language] ? lexicon(language as Language).short.get(word) : undefined) ?? [];
}

const lexicons = new Map<Language, Lexicon>();
function lexicon(language: Language): Lexicon {
  const made = lexicons.get(language) ?? lexiconOf(WORDS[language]);
  lexicons.set(language, made);
  return made;
}

let starts: ReadonlySet<string> | null = null;
/** Whether an entry of several words, in any of our languages, begins with a word. */
export function beginsPhrase(word: string): boolean {
  starts ??= firstWords(LANGUAGES.flatMap((language) => [...lexicon(language).senses.keys()]));
  return starts.has(word);
}

const JOINS = new Set(['de', 'di', 'du', 'el', 'le', 'il']);

/** Most words that one entry has. */
export const LONGEST = 5;

/**
 * What a word, or some words parted by spaces, may mean (folded, ß as ss): by the person's own language where
 * it has the word, or by English, or by any other of ours.
 */
export function sensesOf(words: string, language: string): readonly Sense[] {
  const own = (each: Language) => (WORDS[each] ? lexicon(each).senses.get(words) : undefined);
  const found = own(language as Language) ?? own('en');
  if (found) return found;
  // A word of two letters is another word in the next language, but for what joins: "1 de enero".
  if (words.length <= 2) return JOINS.has(words) ? [{ is: 'of' }, { is: 'the' }] : [];
  return LANGUAGES.map(own).find((each) => each !== undefined) ?? [];
}
