/** The first words of those phrases that have more than one, parted by spaces. */
export function firstWords(phrases: Iterable<string>): Set<string> {
  const first = new Set<string>();
  for (const phrase of phrases) {
    const end = phrase.indexOf(' ');
    if (end > 0) first.add(phrase.slice(0, end));
  }
  return first;
}
