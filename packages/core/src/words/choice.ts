import { fold, slips } from './fold';

export interface LabelledChoice {
  id: string;
  label: string;
}

export type ChoiceReading =
  { ok: true; id: string; how: 'letter' | 'number' | 'label' | 'close to its label' } | { ok: false; reason: string };

/** The letter a choice has where a channel has no buttons: A, B, C … */
export function choiceLetter(index: number): string {
  return String.fromCharCode(65 + index);
}

/**
 * Reads typed words as one of the choices: by its letter ("b", "B.", "B Saturday"), its number, its label, some
 * words that stand in one label only, or the label with a slip of typing. Two that fit are not guessed between.
 */
export function readChoice(written: string, choices: LabelledChoice[]): ChoiceReading {
  const said = fold(written.slice(0, 500));
  if (!said) return { ok: false, reason: 'there are no words in it' };
  const labels = choices.map((choice) => fold(choice.label));
  const pick = (index: number, how: 'letter' | 'number' | 'label' | 'close to its label'): ChoiceReading => ({
    ok: true,
    id: choices[index]!.id,
    how,
  });
  const whole = only(labels, (label) => label === said);
  if (whole >= 0) return pick(whole, 'label');
  const lettered = choices.findIndex((_, index) => {
    const letter = choiceLetter(index).toLowerCase();
    return said === letter || said === `option ${letter}` || said === `${letter} ${labels[index]}`;
  });
  if (lettered >= 0) return pick(lettered, 'letter');
  const numbered = choices.findIndex(
    (_, index) => said === String(index + 1) || said === `option ${index + 1}` || said === `${index + 1} ${labels[index]}`,
  );
  if (numbered >= 0) return pick(numbered, 'number');
  const words = said.split(' ');
  const near = only(labels, (label) => {
    const allowed = label.length >= 9 ? 2 : label.length >= 5 ? 1 : 0;
    return allowed > 0 && slips(said, label, allowed) <= allowed;
  });
  if (near >= 0) return pick(near, 'close to its label');
  const telling = words.filter((word) => word.length >= 3);
  if (telling.length > 0 && words.length <= 8) {
    const inside = only(labels, (label) =>
      telling.every((word) => label.split(' ').some((part) => part === word || (word.length >= 5 && slips(part, word, 1) <= 1))),
    );
    if (inside >= 0) return pick(inside, 'close to its label');
  }
  return { ok: false, reason: 'it is none of the choices' };
}

function only(labels: string[], fits: (label: string) => boolean): number {
  const found = labels.flatMap((label, index) => (label && fits(label) ? [index] : []));
  return found.length === 1 ? found[0]! : -1;
}
