import type { Loop } from '../model/loop';
import type { PersonFacts } from '../../people/person';
import type { Take, TakePerson } from './take';

/** A message with what can be tapped under it. Lettered choices stand in the text already. */
export const withLabels = (text: string, labels: readonly string[]) =>
  [text, ...(labels.length > 0 ? [labels.map((label) => `[${label}]`).join(' ')] : [])].join('\n');

/** A line of a real conversation: what the person did, or what we said. `at` in ms. */
export type RealLine =
  | { at: number; from: 'them'; words: string; how: 'said' | 'tapped' | 'commented' }
  | { at: number; from: 'us'; text: string; labels: readonly string[] };

/** What comes later than this after the person did something comes by itself, in ms. */
const BY_ITSELF = 120_000;

/**
 * A real conversation as a take: the person's side with the time that passed, and what we said. Begins with
 * the first thing that the person did.
 */
export function takeOfConversation(
  lines: readonly RealLine[],
  about: Pick<Take, 'id' | 'name' | 'channel' | 'person'>,
): Take | null {
  const first = lines.findIndex((line) => line.from === 'them');
  if (first < 0) return null;
  const begins = lines[first]!.at;
  const turns: Take['turns'] = [];
  let now = begins;
  const wind = (to: number) => {
    const minutes = Math.floor((to - now) / 60_000);
    if (minutes < 1) return;
    turns.push({ does: `+${minutes}m`, ours: [] });
    now += minutes * 60_000;
  };
  for (const line of lines.slice(first)) {
    if (line.from === 'them') {
      wind(line.at);
      now = line.at;
      turns.push({
        does:
          line.how === 'tapped'
            ? `[${line.words}]`
            : line.how === 'commented'
              ? `~ comment ${line.words}`
              : line.words,
        ours: [],
      });
    } else {
      if (line.at - now > BY_ITSELF) wind(line.at);
      turns.at(-1)!.ours.push(withLabels(line.text, line.labels));
    }
  }
  return { ...about, begins: new Date(begins).toISOString(), turns: turns.slice(0, 300) };
}

/** What a take keeps of whom it was rehearsed with. */
export function takePersonOf(person: PersonFacts): TakePerson {
  return {
    id: person.id,
    ...(person.firstName && { firstName: person.firstName }),
    ...(person.lastName && { lastName: person.lastName }),
    ...(person.language && { language: person.language }),
    ...(Object.keys(person.fields).length > 0 && { fields: person.fields }),
    ...(person.tags.length > 0 && { tags: person.tags }),
    ...(person.lists.length > 0 && { lists: person.lists }),
  };
}

/** The loop with other takes; without any, it has no entry for them. */
export function withTakes(loop: Loop, takes: Take[]): Loop {
  const { takes: _before, ...bare } = loop;
  return takes.length > 0 ? { ...bare, takes } : bare;
}
