import { fold } from '../language/fold';
import { readReply } from '../language/replies';
import { isOptOutWord } from './words';

/**
 * The list that a whole message wants to leave: "STOP workshop news", "baja de novedades"; null when it names
 * none of them.
 */
export function readLeaving(
  text: string,
  lists: readonly string[],
  languages: readonly string[],
): string | null {
  if (text.length > 120) return null;
  const said = fold(text);
  return (
    lists.find((list) => {
      const name = fold(list);
      if (name === '' || !said.endsWith(` ${name}`)) return false;
      const before = said
        .slice(0, -name.length - 1)
        .replace(/( (from|of|the|list|de|la|lista|von|der|liste|du|da|di))+$/, '');
      return isOptOutWord(before, languages) || before === 'leave';
    }) ?? null
  );
}

/** Whether a whole message confirms what was asked: "yes", "sí, por favor". */
export function confirms(text: string, language: string): boolean {
  const read = readReply('yes/no', text, { country: 'GB', language, now: 0, zone: 'UTC' });
  return read.ok && read.confidence === 1 && read.value.value === true;
}
