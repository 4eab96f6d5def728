import { READERS } from '../../language/replies';
import type { Ask } from './ask';
import { leads, store, storeKnown } from './askAnswered';
import { askBack, doubtAbout, settled, showBackOf, type AskedBack } from './askBack';
import { choicesUnder, questionText, questionsOf, type Question } from './askReading';
import { readSeveral } from './readSeveral';
import type { Aside, Outcome, Play, Reply, StepReading, StepWorld } from './step';

/** The questions of a step whose answers one message may hold; once it is under way, those that are open. */
export function partsOf(step: Ask, aside: Aside | null): Question[] {
  const all = questionsOf(step);
  if (aside?.kind !== 'parts') return all;
  return aside.open.flatMap((field) => all.filter((each) => each.field === field));
}

/** Puts the question for all that is not known; where its first field is, the question for the next. */
export function askParts(step: Ask, play: Play): Outcome {
  const { person } = play.world;
  const open = partsOf(step, null).filter((part) => {
    const known = person.fields[part.field];
    if (step.known !== 'skip' || known?.type !== part.reply) return true;
    storeKnown(part, known, play);
    return false;
  });
  return goOn(step, open, null, play);
}

/**
 * Reads whatever of the answers a reply holds: it is kept, what is doubtful is asked about, what is missing
 * asked.
 */
export function readParts(step: Ask, reply: Reply, world: StepWorld, aside: Aside | null): StepReading {
  const open = partsOf(step, aside);
  const about = aside?.kind === 'parts' ? (aside.about ?? null) : null;
  const first = open[0]!;
  const back = about && settled(reply, world, about);
  if (back)
    return {
      ok: true,
      summary: back.summary,
      take(play) {
        if (back.value === null) return goOn(step, open, null, play);
        store(first, back.value, play);
        return goOn(step, open.slice(1), null, play);
      },
    };
  const read = readSeveral(open, reply, world, about?.kind === 'which in' ? about.span : undefined);
  const showBack = reply.kind === 'choice' ? ({ when: 'never' } as const) : showBackOf(step, world);
  const doubts = new Map<Question, AskedBack>();
  for (const [part, reading] of read) {
    const doubt = doubtAbout(reading, part, world, part === first ? about : null, showBack);
    if (doubt) doubts.set(part, doubt);
  }
  const sure = [...read].filter(([part, reading]) => reading.ok && !doubts.has(part));
  if (sure.length + doubts.size === 0)
    return {
      ok: false,
      reason: reasonOf(read.get(first)) ?? `there is not ${READERS[first.reply].words} in it`,
    };
  return {
    ok: true,
    summary: sure.length === 1 ? READERS[sure[0]![0].reply].words : 'several answers',
    take(play) {
      for (const [part, reading] of sure) if (reading.ok) store(part, reading.value, play);
      const left = open.filter((part) => !sure.some(([each]) => each === part));
      // What is doubtful comes first: it was just said.
      const doubtful = left.filter((part) => doubts.has(part));
      const next = [...doubtful, ...left.filter((part) => !doubts.has(part))];
      return goOn(step, next, doubtful[0] ? doubts.get(doubtful[0])! : null, play);
    },
  };
}

const reasonOf = (reading: { ok: boolean; reason?: string } | undefined) =>
  reading && !reading.ok ? reading.reason : undefined;

/** Asks about the first of what is open, or for it; leads on where nothing is. */
function goOn(step: Ask, open: Question[], doubt: AskedBack | null, play: Play): Outcome {
  const [first] = open;
  if (!first) return leads(step, play.world.answers[step.field]!);
  const remembered: Aside = {
    kind: 'parts',
    open: open.map(({ field }) => field),
    ...(doubt && { about: doubt.aside }),
  };
  if (doubt) return askBack(play, doubt, remembered);
  play.say(questionText(first, play.world.language), choicesUnder(step, first, play.world));
  return { kind: 'wait', for: 'reply', aside: remembered, afresh: true };
}
