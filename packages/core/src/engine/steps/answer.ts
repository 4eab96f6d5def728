import { z } from 'zod';
import {
  Duration,
  LocalId,
  NEXT,
  Target,
  durationWords,
  waitingExits,
  waitingParts,
  waitingTexts,
} from '../../loops/model/basics';
import { counted } from '../../language/counted';
import { LanguageCode } from '../../people/client';
import { saysThanks, wantsNothingMore, wantsPerson } from '../../language/answers';
import { readChoice } from '../../language/choice';
import { fold } from '../../language/fold';
import { phrases } from '../../language/phrases';
import type { Aside, Answering } from './aside';
import { FromSources, notSaid, type FromSourcesOne, type Offer } from './fromSources';
import { go, type Outcome, type Play, type StepKind, type StepReading, type StepWorld } from './step';

const Text = z.string().trim().min(1).max(4_096, 'a text has at most 4,096 characters');
/** Answers after which the loop goes on, where the step does not say how many. */
const MOST_ANSWERS = 10;
/** Characters of what is asked at once: messages that come while the sources are asked join it. */
const MOST_ASKED = 2_000;
/** What is longer is a question anew, though words of it stand in a passage's heading. */
const MOST_WORDS_OF_CHOICE = 4;
const NONE = 'none';

const { reminders, noReply, cancel } = waitingParts;

/**
 * Answers questions from the client's own sources, in their words: one message, one answer, until the person
 * has nothing more to ask. What the sources do not say is said to be not known, and noted.
 */
export const Answer = z
  .object({
    id: LocalId,
    kind: z.literal('answer'),
    /** Said on reaching it, where the words that led there ask nothing yet. */
    text: Text.optional(),
    /** What is said where the sources do not say it; and where it leads after so many times in a row. */
    notKnown: z
      .object({
        text: Text.optional(),
        times: z.number().int().min(1).max(5).optional(),
        to: Target.optional(),
      })
      .strict()
      .optional(),
    /** The exit for whoever wants a person. */
    person: Target.optional(),
    /** So many questions are answered before the loop goes on. */
    most: z.number().int().min(1, 'an answer step answers at least once').max(50).optional(),
    /** Messages within this time are one question. */
    gather: Duration.optional(),
    variants: z
      .record(LanguageCode, z.object({ text: Text.optional(), notKnown: Text.optional() }).strict())
      .optional(),
    ...{ reminders, noReply, cancel },
  })
  .strict();
export type Answer = z.infer<typeof Answer>;

const FRESH: Answering = {
  ...{ kind: 'answering', asking: null, before: null },
  ...{ said: 0, unknown: 0, offered: [], round: 0 },
};
const standingOf = (aside: Aside | null): Answering => (aside?.kind === 'answering' ? aside : FRESH);
const waitWith = (aside: Answering): Outcome => ({ kind: 'wait', for: 'reply', aside });

type Taken = Extract<StepReading, { ok: true }>;

const timesOf = ({ notKnown }: Answer) => notKnown?.times ?? 1;
const notKnownText = (step: Answer, { language }: StepWorld): string =>
  step.variants?.[language]?.notKnown ?? step.notKnown?.text ?? phrases(language).sources.unknown;

/** Each offering has ids of its own: a button of an earlier one means no passage of this one. */
function choicesOf({ offered, round }: Answering, { language }: StepWorld) {
  if (offered.length === 0) return [];
  return [
    ...offered.map(({ label }, at) => ({ id: `${round}-${at}`, label })),
    { id: `${round}-${NONE}`, label: phrases(language).sources.none },
  ];
}

/** Asks the sources; what they say comes back as an event of its own. */
function ask(question: string | null, standing: Answering, play: Play): Outcome {
  const asking = [standing.asking, question].filter(Boolean).join('\n').slice(0, MOST_ASKED);
  play.askSources(asking, standing.before);
  return waitWith({ ...standing, asking, offered: [], round: standing.round + 1 });
}

/** They were offered passages and mean none of them. */
function passOver(standing: Answering, play: Play): Answering {
  if (standing.offered.length > 0 && standing.before !== null)
    play.asked({ question: standing.before, came: 'passed over', passages: [] });
  return { ...standing, offered: [] };
}

/** Not known: says so, and leads out where it has been so often enough. */
function notKnown(step: Answer, standing: Answering, play: Play): Outcome {
  const to = standing.unknown >= timesOf(step) ? step.notKnown?.to : undefined;
  if (to === undefined) return waitWith(standing);
  play.note({ code: 'not known', times: standing.unknown, to: play.where(to) });
  return go(to);
}

/** Answered: on to the next step once that was often enough. */
function answered(step: Answer, standing: Answering, play: Play): Outcome {
  if (standing.said < (step.most ?? MOST_ANSWERS)) return waitWith(standing);
  play.note({ code: 'answered enough', times: standing.said });
  return go(NEXT);
}

function pick(step: Answer, standing: Answering, { label, text, passage }: Offer, play: Play): Outcome {
  play.note({ code: 'picked', from: label });
  play.asked({ question: standing.before ?? label, came: 'picked', passages: passage ? [passage] : [] });
  play.say(text, [], { asItIs: true });
  return answered(step, { ...standing, said: standing.said + 1, unknown: 0, offered: [] }, play);
}

const none = (step: Answer, standing: Answering): Taken => ({
  ok: true,
  summary: 'that it is none of these',
  take(play) {
    const after = { ...passOver(standing, play), unknown: standing.unknown + 1 };
    play.say(notKnownText(step, play.world));
    return notKnown(step, after, play);
  },
});

/** What the person gets to read of what the sources say: one message, whatever they asked. */
function sayWhatIsKnown(step: Answer, all: readonly FromSourcesOne[], round: number, play: Play): Offer[] {
  const texts = all.flatMap(({ came, text }) => (came === 'answered' && text !== null ? [text] : []));
  const offered = all.flatMap(({ came, offers }) => (came === 'offered' ? offers : [])).slice(0, 6);
  const isOpen = all.some(({ came }) => came === 'not known' || came === 'disagree');
  const { which } = phrases(play.world.language).sources;
  const last = offered.length > 0 ? [which] : isOpen ? [play.merge(notKnownText(step, play.world))] : [];
  const choices = choicesOf({ ...FRESH, offered, round }, play.world);
  play.say([...new Set(texts), ...last].join('\n\n'), choices, { asItIs: true });
  return offered;
}

const readText = (step: Answer, said: string, world: StepWorld, standing: Answering): StepReading => {
  const folded = fold(said);
  if (standing.offered.length > 0) {
    const chosen = readChoice(said, choicesOf(standing, world));
    const isChoice = folded.split(' ').length <= MOST_WORDS_OF_CHOICE;
    if (chosen.ok && (isChoice || chosen.how === 'label')) return readPick(step, chosen.id, standing);
  }
  if (step.person !== undefined && wantsPerson(folded)) return toPerson(step.person);
  if (wantsNothingMore(folded) || saysThanks(folded))
    return {
      ok: true,
      summary: 'that there is nothing more to ask',
      // What was asked before that is still answered.
      take: (play) => (standing.asking === null ? go(NEXT) : ask(null, standing, play)),
    };
  return {
    ok: true,
    summary: 'a question for the sources',
    gathers: step.gather !== undefined,
    yields: true,
    take: (play) => ask(said, passOver(standing, play), play),
  };
};

function readPick(step: Answer, choiceId: string, standing: Answering): StepReading {
  if (choiceId === `${standing.round}-${NONE}` && standing.offered.length > 0) return none(step, standing);
  const [, place] = choiceId.split('-');
  const offer = standing.offered[Number(place)];
  if (!offer || !choiceId.startsWith(`${standing.round}-`))
    return { ok: false, reason: 'what it was offered with is not open any more' };
  return { ok: true, summary: 'one of the passages', take: (play) => pick(step, standing, offer, play) };
}

const toPerson = (to: Target): Taken => ({
  ok: true,
  summary: 'a wish for a person',
  take(play) {
    play.note({ code: 'wants a person', to: play.where(to) });
    return go(to);
  },
});

export const answer: StepKind<Answer> = {
  enter(step, play) {
    const { language } = play.world;
    const words = play.words();
    if (words !== null)
      return step.person !== undefined && wantsPerson(fold(words))
        ? toPerson(step.person).take(play)
        : ask(words, FRESH, play);
    const text = step.variants?.[language]?.text ?? step.text;
    if (text) play.say(text);
    return waitWith(FRESH);
  },
  choices: (_step, world, aside) => choicesOf(standingOf(aside), world),
  read(step, reply, world, aside) {
    if (reply.kind === 'file' || reply.kind === 'place')
      return { ok: false, reason: `it is a ${reply.kind}, and a question in words is expected` };
    const standing = standingOf(aside);
    return reply.kind === 'choice'
      ? readPick(step, reply.choiceId, standing)
      : readText(step, reply.text, world, standing);
  },
  delivered(step, outcome, play, aside) {
    const standing = standingOf(aside);
    const asking = standing.asking ?? '';
    const read = FromSources.safeParse(outcome.body);
    const all: FromSources =
      outcome.ok && read.success
        ? read.data.map((each) => ({ ...each, question: each.question || asking }))
        : [notSaid(asking)];
    if (!outcome.ok) play.note({ code: 'sources not asked', reason: outcome.reason });
    for (const { question, came, from, passage, offers, model } of all) {
      play.note({ code: 'from sources', came, question, from, ...(model && { model }) });
      const passages =
        came === 'answered' ? [passage] : came === 'offered' ? offers.map((each) => each.passage) : [];
      // What could not be asked is not what the sources lack.
      if (outcome.ok) play.asked({ question, came, passages: passages.flatMap((each) => each ?? []) });
    }
    const offered = sayWhatIsKnown(step, all, standing.round, play);
    const said = all.filter(({ came }) => came === 'answered').length;
    const isUnknown =
      offered.length === 0 && all.some(({ came }) => came === 'not known' || came === 'disagree');
    // What goes on from it goes on from what was asked last.
    const before = (offered.length > 0 ? all.find(({ came }) => came === 'offered') : all.at(-1))!.question;
    const after: Answering = {
      ...standing,
      ...{ asking: null, before, offered, said: standing.said + said },
      unknown: isUnknown ? standing.unknown + 1 : offered.length > 0 ? standing.unknown : 0,
    };
    return isUnknown ? notKnown(step, after, play) : answered(step, after, play);
  },
  exits: (step) => [
    ...(step.notKnown?.to
      ? [
          {
            kind: 'not known' as const,
            words: timesOf(step) === 1 ? 'not known' : `not known ${counted(timesOf(step), 'time')}`,
            to: step.notKnown.to,
            path: ['notKnown', 'to'],
          },
        ]
      : []),
    ...(step.person
      ? [
          {
            kind: 'wants a person' as const,
            words: 'wants a person',
            to: step.person,
            path: ['person'],
          },
        ]
      : []),
    ...waitingExits(step),
  ],
  fallsTo: () => [{ by: 'nothing more', words: 'nothing more to ask' }],
  texts: (step) => [
    step.text ?? '',
    step.notKnown?.text ?? '',
    ...waitingTexts(step),
    ...Object.values(step.variants ?? {}).flatMap((each) => [each.text ?? '', each.notKnown ?? '']),
  ],
  words: (step) =>
    [
      'from the sources',
      ...(step.gather ? [`gathered for ${durationWords(step.gather)}`] : []),
      `at most ${counted(step.most ?? MOST_ANSWERS, 'answer')}`,
    ].join(', '),
};
