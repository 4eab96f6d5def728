import { fold, slips } from './fold';

export interface LabelledChoice {
  id: string;
  label: string;
}

export type ChoiceHow = 'letter' | 'number' | 'label' | 'close to its label';
export type ChoiceReading =
  { ok: true; id: string; how: ChoiceHow; confidence: number } | { ok: false; reason: string };

/** The letter a choice has where a channel has no buttons: A, B, C … Z, AA, AB … */
export function choiceLetter(index: number): string {
  const last = String.fromCharCode(65 + (index % 26));
  return index < 26 ? last : `${choiceLetter(Math.floor(index / 26) - 1)}${last}`;
}

/** Words before an answer that say nothing: "option b", "I'd like the second one please". */
const AROUND =
  /^(?:(?:option|number|letter|answer|choice|opcion|numero|nummer|i would like|id like|i want|ill take|ill have|i choose|give me|just|the|el|la|le|der|die|das|o) )+|(?: (?:please|thanks|thank you|one|option|por favor|merci|bitte|danke|gracias|grazie))+$/g;
const COUNTED = ['one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight'];
const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];

/**
 * Reads typed words as one of the choices: by its letter ("b", "B.", "B Saturday"), its number, its label,
 * some words that stand in one label only, or the label with a slip of typing. Two that fit are not guessed
 * between.
 */
export function readChoice(written: string, choices: LabelledChoice[]): ChoiceReading {
  const trimmed = written.trim().slice(0, 500);
  // A label of nothing but signs, such as an emoji, is compared as it is.
  const bare = only(
    choices.map((choice) => choice.label.trim()),
    (label) => label === trimmed,
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
  const numbered = choices.findIndex(
    (_, index) =>
      core === String(index + 1) ||
      said === `${index + 1} ${labels[index]}` ||
      core === ORDINALS[index] ||
      core === COUNTED[index],
  );
  if (numbered >= 0 && !labels.some((label, index) => index !== numbered && label.split(' ').includes(core)))
    return pick(choices, numbered, 'number', 0.95);
  for (const words of new Set([said, core])) {
    const near = only(labels, (label) => {
      const allowed = label.length >= 9 ? 2 : label.length >= 5 ? 1 : 0;
      return label === words || (allowed > 0 && slips(words, label, allowed) <= allowed);
    });
    if (near >= 0) return pick(choices, near, 'close to its label', 0.85);
  }
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
  // The whole label within a longer answer: "yes, Saturday morning would be lovely".
  const named = only(labels, (label) => [...label].length >= 3 && ` ${said} `.includes(` ${label} `));
  if (named >= 0 && words.length <= 12) return pick(choices, named, 'close to its label', 0.7);
  return { ok: false, reason: 'it is none of the choices' };
}

/**
 * Several at once: "A and C", "1, 3", "both", "all of them", "none". In the order of the choices, each once.
 */
export function readChoices(
  written: string,
  choices: LabelledChoice[],
): { ok: true; ids: string[]; confidence: number } | { ok: false; reason: string } {
  const said = fold(written);
  if (
    /^(?:all|all of (?:them|it)|everything|todos|todas|tous|toutes|alle|tudo|tutti|tutte)$/.test(said) ||
    (said === 'both' && choices.length === 2)
  )
    return { ok: true, ids: choices.map((choice) => choice.id), confidence: 0.9 };
  const one = readChoice(written, choices);
  if (one.ok && one.how === 'label') return { ok: true, ids: [one.id], confidence: 1 };
  const parts = written
    .split(/[,;/+&\n]|\s(?:and|y|et|und|e|plus|also)\s/i)
    .map((part) => part.trim())
    .filter((part) => fold(part) !== '');
  const compact =
    /^[a-z]{2,8}$/i.test(written.trim()) && parts.length === 1 && !one.ok
      ? [...written.trim()]
      : /^\d(?:\s+\d)+$/.test(said)
        ? said.split(' ')
        : null;
  const readings = (compact ?? parts).map((part) => readChoice(part, choices));
  const unknown = readings.findIndex((reading) => !reading.ok);
  if (readings.length === 0 || unknown >= 0)
    return {
      ok: false,
      reason:
        readings.length <= 1
          ? 'it is none of the options'
          : `“${(compact ?? parts)[unknown]}” is none of the options`,
    };
  const ids = new Set(readings.map((reading) => (reading.ok ? reading.id : '')));
  return {
    ok: true,
    ids: choices.map((choice) => choice.id).filter((id) => ids.has(id)),
    confidence: Math.min(...readings.map((reading) => (reading.ok ? reading.confidence : 0))),
  };
}

function pick(choices: LabelledChoice[], index: number, how: ChoiceHow, confidence: number): ChoiceReading {
  return { ok: true, id: choices[index]!.id, how, confidence };
}

function only(labels: string[], fits: (label: string) => boolean): number {
  const found = labels.flatMap((label, index) => (label && fits(label) ? [index] : []));
  return found.length === 1 ? found[0]! : -1;
}
