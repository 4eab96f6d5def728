import type { Surroundings } from '../../loops/check/check';
import type { Cue } from '../cues';
import type { FromSources } from '../steps/fromSources';
import { freshId, type Loop } from '../../loops/model/loop';
import type { Take } from '../../loops/takes/take';
import { Performance } from './performance';
import type { Rehearsal, RehearsalEntry } from './rehearsal';
import { readScriptLine } from './script';
import { takePersonOf } from '../../loops/takes/keepTake';
import { oursIn, rehearsalAmong, type Opening } from '../../loops/takes/takes';

export type { Opening };

/** A rehearsal with all that was done in it. Immutable; {@link performed} gives the next one. */
export interface Session {
  opening: Opening;
  rehearsal: Rehearsal;
  turns: { does: string; entries: RehearsalEntry[] }[];
  /** Why the last line could not be done; null where it could. */
  problem: string | null;
}

/** Opens a rehearsal of a draft among the client's other loops. */
export function openSession(loop: Loop, known: Surroundings, opening: Opening): Session {
  return {
    opening,
    rehearsal: rehearsalAmong(loop, known, opening),
    turns: [],
    problem: null,
  };
}

/**
 * What the person, the clock or the team does next, as a line of a written conversation. What cannot be done
 * changes nothing but `problem`.
 */
export function performed(session: Session, does: string): Session {
  const line = readScriptLine(does);
  if (line === null) return session;
  if (typeof line === 'string') return { ...session, problem: line };
  const performance = new Performance(session.rehearsal);
  const result = performance.perform(line);
  if (result.kind === 'unusable') return { ...session, problem: result.reason };
  return {
    ...session,
    rehearsal: performance.rehearsal,
    turns: [...session.turns, { does, entries: result.entries }],
    problem: null,
  };
}

/**
 * The same done again from the beginning, with another draft or for somebody else; lines that cannot be done
 * any more are left out.
 */
export function performedAgain(
  session: Session,
  loop: Loop,
  known: Surroundings,
  opening: Opening = session.opening,
): Session {
  const again = session.turns.reduce(
    (before, { does }) => {
      const next = performed(before, does);
      return next.problem === null ? next : before;
    },
    openSession(loop, known, opening),
  );
  const left = session.turns.length - again.turns.length;
  return left === 0
    ? again
    : {
        ...again,
        problem: `${left === 1 ? 'One thing that was done' : `${left} things that were done`} cannot be done any more in the draft as it is now`,
      };
}

/** What the sources say, as a line of a rehearsal; it is no doing of the person's. */
export const fromSourcesLine = (said: FromSources): string => `! 200 ${JSON.stringify(said)}`;
const isFromSources = (does: string) => does.startsWith('! 200 [');

/** The last line taken back, with what the sources have said to it. */
export function takenBack(session: Session, loop: Loop, known: Surroundings): Session {
  const last = session.turns.findLastIndex(({ does }) => !isFromSources(does));
  return performedAgain({ ...session, turns: session.turns.slice(0, Math.max(0, last)) }, loop, known);
}

/** A rehearsal as a take, with a name. */
export function takeOf({ opening, turns }: Session, name: string, taken: readonly Take[]): Take {
  return {
    id: freshId(
      name,
      taken.map(({ id }) => id),
    ),
    name,
    channel: opening.channel,
    begins: new Date(opening.now).toISOString(),
    person: takePersonOf(opening.person),
    turns: turns.map(({ does, entries }) => ({ does, ours: oursIn(entries) })),
  };
}

/**
 * How a cue is set off in a rehearsal: the line that does it, and how it reads; null for one that time alone
 * sets off.
 */
export function cueLine(cue: Cue): { does: string; words: string } | null {
  switch (cue.kind) {
    case 'keyword':
      return cue.match === 'pattern' ? null : { does: cue.words[0]!, words: `writes “${cue.words[0]}”` };
    case 'link':
      return { does: `/start ${cue.ref}`, words: `comes by the link “${cue.ref}”` };
    case 'menu tap':
      return /^[a-z0-9_]{1,32}$/i.test(cue.item)
        ? { does: `/${cue.item}`, words: `taps “${cue.item}” in the menu` }
        : null;
    case 'comment': {
      const said = cue.with?.[0] ?? 'Nice';
      const post = Array.isArray(cue.posts) ? cue.posts[0]! : 'post';
      return { does: `~ comment @${post} ${said}`, words: `comments “${said}”` };
    }
    case 'ad click':
      return { does: cue.ads ? `/ad ${cue.ads[0]}` : `/start ${cue.ref}`, words: 'clicks the ad' };
    case 'lead form':
      return { does: `~ lead ${cue.forms[0]}`, words: 'submits the lead form' };
    case 'tag':
      return {
        does: `~ ${cue.when === 'added' ? 'tag' : 'untag'} ${cue.tag}`,
        words: `gets the tag ${cue.tag} ${cue.when}`,
      };
    case 'list joined':
      return { does: `~ join ${cue.list}`, words: `joins ${cue.list}` };
    case 'incoming webhook':
      return { does: `~ webhook ${cue.hook}`, words: `the webhook “${cue.hook}” comes` };
    case 'first message':
      return { does: 'Hello', words: 'writes for the first time' };
    case 'fallback':
      return { does: 'Something nobody expects', words: 'writes what nothing hears' };
    case 'date':
    case 'silence':
    case 'field changed':
      return null;
  }
}
