import { saysDontKnow } from './answers';
import { fold, slips } from './fold';
import { valueInWords } from './numerals';
import { meansAll, scopeOf, type Scope } from './scope';

export interface LabelledChoice {
  id: string;
  label: string;
}

/** Characters of a reply in which choices are looked for. */
const MOST_LOOKED_AT = 500;

export type ChoiceHow = 'letter' | 'number' | 'label' | 'close to its label' | 'the other one';
export type ChoiceReading =
  { ok: true; id: string; how: ChoiceHow; confidence: number } | { ok: false; reason: string };
export type ChoicesReading = { ok: true; ids: string[]; confidence: number } | { ok: false; reason: string };

/** The letter a choice has where a channel has no buttons: A, B, C … Z, AA, AB … */
export function choiceLetter(index: number): string {
  const last = String.fromCharCode(65 + (index % 26));
  return index < 26 ? last : `${choiceLetter(Math.floor(index / 26) - 1)}${last}`;
}

/** Words before an answer that say nothing: "option b", "I'd like the second one please". */
const AROUND =
  /^(?:(?:option|number|letter|answer|choice|opcion|numero|nummer|i would like|id like|i want|ill take|ill have|i choose|give me|just|only|for|the|el|la|le|der|die|das|o) )+|(?: (?:please|thanks|thank you|one|option|por favor|merci|bitte|danke|gracias|grazie))+$/g;
const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];

/**
 * Reads typed words as one of the choices: by its letter ("b", "B.", "B Saturday"), its number, its label,
 * some words that stand in one label only, or the label with a slip of typing. What is said not to be meant
 * is not taken; where there are two and one is ruled out, it is the other. Two that fit are not guessed
 * between.
 */
export function readChoice(written: string, choices: LabelledChoice[]): ChoiceReading {
  const trimmed = written.trim().slice(0, MOST_LOOKED_AT);
  // A label of nothing but signs, such as an emoji, is compared by its signs.
  const signs = signsOf(trimmed);
  const bare = only(
    choices.map((choice) => signsOf(choice.label)),
    (label) => label === signs || (fold(label) === '' && signs.replaceAll(label, '') === ''),
  );
  if (bare >= 0) return pick(choices, bare, 'label', 1);
  const said = fold(trimmed);
  if (!said) return { ok: false, reason: 'there are no words in it' };
  const labels = choices.map((choice) => fold(choice.label));
  const whole = only(labels, (label) => label === said);
  if (whole >= 0) return pick(choices, whole, 'label', 1);
  const core = said.replace(AROUND, '').trim() || said;
  const lettered = choices.findIndex((_, index) => {
    const letter = choiceLetter(index).toLowerCase();
    return core === letter || said === `${letter} ${labels[index]}`;
  });
  if (lettered >= 0) return pick(choices, lettered, 'letter', 1);
  return (
    byValue(core, labels, choices) ??
    byPlace(core, said, labels, choices) ??
    byNearness(said, core, labels, choices) ??
    (saysDontKnow(said) ? { ok: false, reason: 'it says that they do not know' } : null) ??
    byScope(trimmed, labels, choices) ??
    bySomeWords(said, core, labels, choices) ?? { ok: false, reason: 'it is none of the choices' }
  );
}

/** "Four" among 2, 4, 6 and 8; "2" among "2 hours" and "3 hours". */
function byValue(core: string, labels: string[], choices: LabelledChoice[]): ChoiceReading | null {
  const [head = '', ...behind] = core.split(' ');
  const value = /^\d+$/.test(head) ? head : valueInWords(head)?.toString();
  if (value === undefined) return null;
  const spelt = only(labels, (label) => label === [value, ...behind].join(' '));
  if (spelt >= 0) return pick(choices, spelt, 'label', 0.95);
  if (behind.length > 0) return null;
  const has = (label: string) =>
    label === value || label.startsWith(`${value} `) || valueInWords(label)?.toString() === value;
  const found = only(labels, has);
  if (found >= 0) return pick(choices, found, 'label', 0.95);
  // Where all of them are numbers, one that is none of them is no place among them.
  return labels.every((label) => /^\d+$/.test(label))
    ? { ok: false, reason: 'it is none of the choices' }
    : null;
}

/** "2", "2nd", "the second one", "the last one". */
function byPlace(
  core: string,
  said: string,
  labels: string[],
  choices: LabelledChoice[],
): ChoiceReading | null {
  const figure = /^([1-9]\d*)(?:st|nd|rd|th)?$/.exec(core)?.[1];
  const wanted = figure === undefined ? valueInWords(core) : Number(figure);
  const place = choices.findIndex(
    (_, index) =>
      wanted === index + 1 ||
      said === `${index + 1} ${labels[index]}` ||
      core === ORDINALS[index] ||
      (index === choices.length - 1 && core === 'last'),
  );
  if (place < 0 || labels.some((label, index) => index !== place && label.split(' ').includes(core)))
    return null;
  return pick(choices, place, 'number', 0.95);
}

function byNearness(
  said: string,
  core: string,
  labels: string[],
  choices: LabelledChoice[],
): ChoiceReading | null {
  for (const words of new Set([said, core])) {
    const near = only(labels, (label) => {
      const allowed = label.length >= 9 ? 2 : label.length >= 5 ? 1 : 0;
      return label === words || (allowed > 0 && slips(words, label, allowed) <= allowed);
    });
    if (near >= 0) return pick(choices, near, 'close to its label', 0.85);
  }
  return null;
}

/** Where something is said not to be meant; null where nothing is. */
function byScope(written: string, labels: string[], choices: LabelledChoice[]): ChoiceReading | null {
  // A label may leave out by itself ("Not today", "No thanks"): it is looked for as it stands.
  const said = fold(written);
  const named = only(
    labels,
    (label) => label.includes(' ') && ` ${said} `.includes(` ${label} `) && scopeOf(label) !== null,
  );
  if (named >= 0) return pick(choices, named, 'close to its label', 0.8);
  const scope = scopeOf(written);
  if (!scope) return null;
  const [meant, excluded] = [scope.meant, scope.excluded].map((parts) => new Set(idsOf(parts, choices))) as [
    Set<string>,
    Set<string>,
  ];
  const left = [...meant].filter((id) => !excluded.has(id));
  if (left.length === 1) return { ok: true, id: left[0]!, how: 'close to its label', confidence: 0.8 };
  const [other, ...more] = choices.filter(({ id }) => !excluded.has(id));
  if (left.length === 0 && scope.meant.length === 0 && choices.length === 2 && other && more.length === 0)
    return { ok: true, id: other.id, how: 'the other one', confidence: 0.7 };
  return { ok: false, reason: 'it says what is not meant' };
}

const idsOf = (parts: readonly string[], choices: LabelledChoice[]): string[] =>
  parts.flatMap((part) => {
    const read = readChoice(part, choices);
    return read.ok ? [read.id] : [];
  });

/** Some words that stand in one label only, or a whole label within a longer answer. */
function bySomeWords(
  said: string,
  core: string,
  labels: string[],
  choices: LabelledChoice[],
): ChoiceReading | null {
  const words = core.split(' ');
  const telling = words.filter((word) => [...word].length >= 3);
  if (telling.length > 0 && words.length <= 8) {
    const inside = only(labels, (label) =>
      telling.every((word) =>
        label.split(' ').some((part) => part === word || (word.length >= 5 && slips(part, word, 1) <= 1)),
      ),
    );
    if (inside >= 0) return pick(choices, inside, 'close to its label', 0.75);
  }
  // Short words together: "B&B" for "B&B for dogs".
  const together = core.replaceAll(' and ', ' ');
  const within = only(labels, (label) => together.includes(' ') && ` ${label} `.includes(` ${together} `));
  if (within >= 0) return pick(choices, within, 'close to its label', 0.75);
  // The whole label within a longer answer: "yes, Saturday morning would be lovely".
  const named = only(labels, (label) => [...label].length >= 3 && ` ${said} `.includes(` ${label} `));
  return named >= 0 && words.length <= 12 ? pick(choices, named, 'close to its label', 0.7) : null;
}

/**
 * Several at once: "A and C", "1, 3", "both", "all of them", "everything except the ears". In the order of
 * the choices, each once. What is left out alone ("not the ears") is asked about.
 */
export function readChoices(reply: string, choices: LabelledChoice[]): ChoicesReading {
  const written = reply.slice(0, MOST_LOOKED_AT);
  const said = fold(written);
  if (meansAll(said) || (said === 'both' && choices.length === 2))
    return { ok: true, ids: choices.map((choice) => choice.id), confidence: 0.9 };
  const one = readChoice(written, choices);
  if (one.ok && one.how === 'label') return { ok: true, ids: [one.id], confidence: 1 };
  if (saysDontKnow(said)) return { ok: false, reason: 'it says that they do not know' };
  const scope = choices.some(({ label }) => scopeOf(label)) ? null : scopeOf(written);
  return scope ? severalBy(scope, choices) : severalIn(written, one, choices);
}

function severalBy({ meant, excluded }: Scope, choices: LabelledChoice[]): ChoicesReading {
  const of = (parts: readonly string[]) => parts.map((part) => readChoices(part, choices));
  const out = of(excluded);
  const base = of(meant).filter((each) => each.ok);
  if (out.some((each) => !each.ok)) return { ok: false, reason: 'it leaves out what is none of the options' };
  const idsIn = (all: ChoicesReading[]) => new Set(all.flatMap((each) => (each.ok ? each.ids : [])));
  const [wanted, unwanted] = [idsIn(base), idsIn(out)];
  const ids = choices.map(({ id }) => id).filter((id) => wanted.has(id) && !unwanted.has(id));
  return ids.length > 0
    ? { ok: true, ids, confidence: 0.8 }
    : { ok: false, reason: 'it says only what is not meant' };
}

function severalIn(written: string, one: ChoiceReading, choices: LabelledChoice[]): ChoicesReading {
  const parts = written
    .split(/[,;/+&\n]|\s(?:and|y|et|und|e|plus|also)\s/i)
    .map((part) => part.trim())
    .filter((part) => fold(part) !== '');
  const compact =
    /^[a-z]{2,8}$/i.test(written.trim()) && parts.length === 1 && !one.ok
      ? [...written.trim()]
      : /^\d(?:\s+\d)+$/.test(fold(written))
        ? fold(written).split(' ')
        : null;
  const named = compact ?? parts;
  const ids = new Set<string>();
  let confidence = 1;
  for (const part of named) {
    const reading = readChoice(part, choices);
    // One that is none of them decides it: of a long text no more is read.
    if (!reading.ok)
      return {
        ok: false,
        reason: named.length === 1 ? 'it is none of the options' : `“${part}” is none of the options`,
      };
    ids.add(reading.id);
    confidence = Math.min(confidence, reading.confidence);
  }
  if (ids.size === 0) return { ok: false, reason: 'it is none of the options' };
  return { ok: true, ids: choices.map((choice) => choice.id).filter((id) => ids.has(id)), confidence };
}

/** Signs without what only colours them: the shade of a skin, and how a sign is to be drawn. */
const signsOf = (text: string): string => text.trim().replace(/[\u{1F3FB}-\u{1F3FF}\uFE0E\uFE0F]/gu, '');

function pick(choices: LabelledChoice[], index: number, how: ChoiceHow, confidence: number): ChoiceReading {
  return { ok: true, id: choices[index]!.id, how, confidence };
}

function only(labels: string[], fits: (label: string) => boolean): number {
  const found = labels.flatMap((label, index) => (label && fits(label) ? [index] : []));
  return found.length === 1 ? found[0]! : -1;
}
