import { phrases } from '../../language/phrases';
import { READERS } from '../../language/replies';
import type { Ask } from './askModel';
import { leads, store, storeKnown } from './askAnswered';
import { askBack, doubtAbout, settled, showBackOf, spoken, yesNoChoices } from './askBack';
import { choicesUnder, questionText, questionsOf, type Question } from './askReading';
import { readSeveral } from './readSeveral';
import type { Aside, AskedBack, Outcome, Play, Reply, StepReading, StepWorld } from './step';

/**
 * The questions of a step whose answers one message may hold; once it is under way, those that are open.
 * Where none is, all of them may be put right.
 */
export function partsOf(step: Ask, aside: Aside | null): Question[] {
  const all = questionsOf(step);
  if (aside?.kind !== 'parts' || aside.open.length === 0) return all;
  return aside.open.flatMap((field) => all.filter((each) => each.field === field));
}

/** Puts the question for all that is not known; where its first field is, the question for the next. */
export function askParts(step: Ask, play: Play): Outcome {
  const { person } = play.world;
  const open = questionsOf(step).filter((part) => {
    const known = person.fields[part.field];
    if (step.known !== 'skip' || known?.type !== part.reply) return true;
    storeKnown(part, known, play);
    return false;
  });
  return open.length === 0 ? over(step, play) : goOn(step, open, [], play);
}

/**
 * Reads whatever of the answers a reply holds: it is kept, what is doubtful is asked about, what is missing
 * asked.
 */
export function readParts(step: Ask, reply: Reply, world: StepWorld, aside: Aside | null): StepReading {
  const open = partsOf(step, aside);
  const { about = null, then = [] } = aside?.kind === 'parts' ? aside : {};
  const isShownBack = aside?.kind === 'parts' && aside.open.length === 0;
  const first = open[0]!;
  const back = about && settled(reply, world, about);
  if (back)
    return {
      ok: true,
      summary: back.summary,
      take(play) {
        if (back.value === null) return goOn(step, open, [], play);
        if (isShownBack) return over(step, play);
        store(first, back.value, play);
        return goOn(step, open.slice(1), then, play);
      },
    };
  const read = readSeveral(open, reply, world, about?.kind === 'which in' ? about.span : undefined);
  const doubts = doubtsAbout(read, step, reply, world, about);
  const sure = [...read].filter(
    ([part, reading]) => reading.ok && !doubts.some(({ field }) => field === part.field),
  );
  if (sure.length + doubts.length === 0)
    return {
      ok: false,
      reason: reasonOf(read.get(first)) ?? `there is not ${READERS[first.reply].words} in it`,
    };
  return {
    ok: true,
    summary: sure.length === 1 ? READERS[sure[0]![0].reply].words : 'several answers',
    take(play) {
      for (const [part, reading] of sure) if (reading.ok) store(part, reading.value, play, reading.why);
      const left = isShownBack ? [] : open.filter((part) => !sure.some(([each]) => each === part));
      // What was to be asked about before is, unless it was answered now.
      const others = then.filter(
        ({ field }) => left.some((part) => part.field === field) && !asksAbout(doubts, field),
      );
      return goOn(step, left, [...doubts, ...others], play);
    },
  };
}

const asksAbout = (doubts: readonly AskedBack[], field: string) =>
  doubts.some((each) => each.field === field);

/** What is to be asked about the readings. All of them are shown back together, where the step wants that. */
function doubtsAbout(
  read: ReadonlyMap<Question, Parameters<typeof doubtAbout>[0]>,
  step: Ask,
  reply: Reply,
  world: StepWorld,
  asked: Aside | null,
): AskedBack[] {
  const showBack = showBackOf(step, world);
  const how =
    reply.kind === 'choice'
      ? ({ when: 'never' } as const)
      : showBack?.when === 'always'
        ? undefined
        : showBack;
  return [...read].flatMap(([part, reading]) => doubtAbout(reading, part, world, asked, how) ?? []);
}

const reasonOf = (reading: { ok: boolean; reason?: string } | undefined) =>
  reading && !reading.ok ? reading.reason : undefined;

/**
 * Asks what is doubtful, or for the first of what is open; else it shows all back, where the step wants that,
 * or leads on.
 */
function goOn(step: Ask, open: Question[], doubts: AskedBack[], play: Play): Outcome {
  const [doubt, ...then] = doubts;
  const doubtful = (part: Question) => asksAbout(doubts, part.field);
  // What is doubtful comes first: it was just said.
  const inTurn = [
    ...doubts.flatMap(({ field }) => open.filter((part) => part.field === field)),
    ...open.filter((part) => !doubtful(part)),
  ];
  const remembered: Aside = {
    kind: 'parts',
    open: inTurn.map(({ field }) => field),
    ...(doubt && { about: doubt.aside }),
    ...(then.length > 0 && { then }),
  };
  if (doubt) return askBack(play, doubt, remembered);
  const [first] = inTurn;
  if (!first) return showBackOf(step, play.world)?.when === 'always' ? showAll(step, play) : over(step, play);
  play.say(questionText(first, play.world.language), choicesUnder(step, first, play.world));
  return { kind: 'wait', for: 'reply', aside: remembered, afresh: true };
}

/** All answers in one question of ours. */
function showAll(step: Ask, play: Play): Outcome {
  const { language, answers } = play.world;
  const said = questionsOf(step).map(({ field }) => [field, spoken(answers[field]!, language)] as const);
  const text = showBackOf(step, play.world)?.text;
  const value = { type: 'text' as const, value: said.map(([, words]) => words).join(', ') };
  const asked: AskedBack = {
    field: step.field,
    text: text ?? phrases(language).isThatRight(value.value),
    ...(text && {
      fills: Object.fromEntries(
        said.map(([field, words]) => [field, { type: 'text' as const, value: words }]),
      ),
    }),
    choices: yesNoChoices(language),
    aside: { kind: 'is that right', value },
  };
  return askBack(play, asked, { kind: 'parts', open: [], about: asked.aside });
}

const over = (step: Ask, play: Play): Outcome => leads(step, play.world.answers[step.field]!);
