import { choiceLetter } from '../language/choice';
import { fold } from '../language/fold';
import { graphemes } from './text';

/** One line, without what would be refused. */
export const tidy = (label: string): string => label.replace(/\s+/gu, ' ').trim();

/** Cut to at most `most` UTF-16 units, at a word where one is near, with an ellipsis. */
function cut(label: string, most: number): string {
  if (label.length <= most) return label;
  let kept = '';
  for (const character of graphemes(label)) {
    if (kept.length + character.length > most - 1) break;
    kept += character;
  }
  const next = label[kept.length];
  const gap = kept.lastIndexOf(' ');
  const atWord = next === ' ' || gap <= kept.length / 2 ? kept : kept.slice(0, gap);
  return `${atWord.trimEnd()}…`;
}

/** As people tell labels apart; signs alone by themselves. */
const seen = (label: string): string => fold(label) || label;

/**
 * Labels as they fit into `most` UTF-16 units: cut at a word with an ellipsis and kept distinct. Those that
 * would look the same, or of which nothing is left, get the letter that they can be typed by. `from` is the
 * place of the first one in the whole list.
 */
export function fitLabels(labels: readonly string[], most: number, from = 0): string[] {
  const plain = labels.map((label) => cut(tidy(label), most));
  const count = new Map<string, number>();
  for (const label of plain) count.set(seen(label), (count.get(seen(label)) ?? 0) + 1);
  const taken = new Set<string>();
  return plain.map((label, index) => {
    const letter = choiceLetter(from + index);
    let shown = label;
    if (label === '' || label === '…') shown = letter;
    else if (count.get(seen(label))! > 1)
      shown = `${letter} ${cut(tidy(labels[index]!), most - letter.length - 1)}`;
    for (let n = 2; taken.has(seen(shown)); n++) shown = `${letter}${n}`;
    taken.add(seen(shown));
    return shown;
  });
}
