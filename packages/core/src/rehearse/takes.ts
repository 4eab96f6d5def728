import { CHANNELS } from '../channels';
import { CheckWorld, type Surroundings } from '../check/check';
import { pathKey, waysTaken, type PathStep } from '../check/paths';
import type { ClientFacts, LineFacts } from '../model/client';
import type { Loop } from '../model/loop';
import { stranger, type PersonFacts } from '../model/person';
import type { Take, TakePerson } from '../model/take';
import { Performance } from './performance';
import { openRehearsal, type RehearsalEntry } from './rehearsal';
import { readScriptLine } from './script';

/** One turn of a take as it was kept and as it is played now. */
export interface TakeTurn {
  does: string;
  kept: string[];
  now: string[];
  /** Why the line cannot be played any more; null where it can. */
  cannot: string | null;
}

export interface TakePlayed {
  takeId: string;
  name: string;
  turns: TakeTurn[];
  /** How many turns differ from what was kept. */
  changed: number;
  /** The path it takes through the loop, as {@link pathKey} names it. */
  steps: PathStep[];
}

/** What we did in answer to one line, as a take keeps it: messages as they are seen, and what would have gone elsewhere. */
export function oursIn(entries: readonly RehearsalEntry[]): string[] {
  return entries.flatMap((entry) =>
    entry.from === 'us'
      ? [withLabels(entry.text, entry.parts === null ? entry.choices : [])]
      : entry.from === 'outside'
        ? [`(${entry.text})`]
        : [],
  );
}

/** A message with what can be tapped under it. Lettered choices stand in the text already. */
const withLabels = (text: string, labels: readonly string[]) =>
  [text, ...(labels.length > 0 ? [labels.map((label) => `[${label}]`).join(' ')] : [])].join('\n');

/** A line of a real conversation: what the person did, or what we said. `at` in ms. */
export type RealLine =
  | { at: number; from: 'them'; words: string; how: 'said' | 'tapped' | 'commented' }
  | { at: number; from: 'us'; text: string; labels: readonly string[] };

/** What comes later than this after the person did something comes by itself, in ms. */
const BY_ITSELF = 120_000;

/** A real conversation as a take: the person's side with the time that passed, and what we said. Begins with the first thing that the person did. */
export function takeOfConversation(lines: readonly RealLine[], about: Pick<Take, 'id' | 'name' | 'channel' | 'person'>): Take | null {
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
        does: line.how === 'tapped' ? `[${line.words}]` : line.how === 'commented' ? `~ comment ${line.words}` : line.words,
        ours: [],
      });
    } else {
      if (line.at - now > BY_ITSELF) wind(line.at);
      turns.at(-1)!.ours.push(withLabels(line.text, line.labels));
    }
  }
  return { ...about, begins: new Date(begins).toISOString(), turns: turns.slice(0, 300) };
}

export function personOfTake({ id, firstName, lastName, language, fields, tags, lists }: TakePerson): PersonFacts {
  return {
    ...stranger(id),
    firstName: firstName ?? null,
    lastName: lastName ?? null,
    language: language ?? null,
    fields: fields ?? {},
    tags: tags ?? [],
    lists: lists ?? [],
  };
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

export const clientOf = ({ client, brief = {} }: Surroundings): ClientFacts => ({
  name: 'The client',
  country: 'GB',
  timeZone: 'UTC',
  languages: ['en'],
  openingHours: {},
  ...client,
  brief,
});

/** The line a take is played on: the loop's first on that channel, else one that stands for it. */
export function lineFor(loop: Loop, channel: Take['channel'], known: Surroundings): LineFacts {
  const own = (known.lines ?? []).filter((line) => line.channel === channel);
  const line = own.find(({ key }) => loop.lines.length === 0 || loop.lines.includes(key)) ?? own[0];
  return line ? { ...line, name: line.name ?? line.key } : { key: channel, name: CHANNELS[channel].name, channel };
}

/** Plays a take against the loop as it is now, among the client's other loops. Pure: the same loops give the same turns. */
export function playTake(loop: Loop, take: Take, known: Surroundings, world = new CheckWorld(loop, known)): TakePlayed {
  const performance = new Performance(
    openRehearsal({
      loops: [loop, ...(known.others ?? []).filter(({ name }) => !known.resting?.includes(name))],
      client: clientOf(known),
      line: lineFor(loop, take.channel, known),
      person: personOfTake(take.person),
      now: Date.parse(take.begins),
      fields: known.types,
    }),
  );
  const trail: Parameters<typeof waysTaken>[1][number][] = [];
  const turns = take.turns.map(({ does, ours }): TakeTurn => {
    const line = readScriptLine(does);
    const performed =
      line === null || typeof line === 'string'
        ? ({ kind: 'unusable', reason: line ?? 'it is empty' } as const)
        : performance.perform(line);
    if (performed.kind === 'unusable') return { does, kept: ours, now: [], cannot: performed.reason };
    if (performed.kind === 'played') trail.push(...performed.trail);
    return { does, kept: ours, now: oursIn(performed.entries), cannot: null };
  });
  const run = performance.rehearsal.runs.find((each) => each.loopId === 'loop-1');
  return {
    takeId: take.id,
    name: take.name,
    turns,
    changed: turns.filter((turn) => turn.cannot !== null || turn.kept.join('\u0000') !== turn.now.join('\u0000')).length,
    steps: run ? waysTaken(world, trail, run.id) : [],
  };
}

/** The loop with a take as it is played now. */
export function acceptTake(loop: Loop, played: TakePlayed): Loop {
  const turns = played.turns.filter((turn) => turn.cannot === null).map(({ does, now }) => ({ does, ours: now }));
  const takes = (loop.takes ?? []).flatMap((take) => (take.id !== played.takeId ? take : turns.length > 0 ? { ...take, turns } : []));
  return withTakes(loop, takes);
}

/** The loop with other takes; without any, it has no entry for them. */
export function withTakes(loop: Loop, takes: Take[]): Loop {
  const { takes: _before, ...bare } = loop;
  return takes.length > 0 ? { ...bare, takes } : bare;
}

/** Whether a take goes all the way of a path. */
export const covers = (played: TakePlayed, path: { steps: PathStep[] }): boolean => {
  const way = pathKey({ steps: played.steps });
  const wanted = pathKey(path);
  return way === wanted || way.startsWith(`${wanted}>`) || lastWaits(path, way);
};

/** A path that ends in a step which is not left has that step at its end; a run has left only those before it. */
function lastWaits({ steps }: { steps: PathStep[] }, way: string): boolean {
  const last = steps.at(-1);
  return last?.by === 'itself' && last.words === '' && steps.length > 1 && way === pathKey({ steps: steps.slice(0, -1) });
}
