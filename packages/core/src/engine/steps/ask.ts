import { isSkipWord } from '../../consent/words';
import { NEXT, waitingExits, waitingTexts } from '../../loops/model/basics';
import { valueWords, type Value } from '../../people/person';
import { saysNone } from '../../language/answers';
import { fold } from '../../language/fold';
import { readChoice } from '../../language/choice';
import { phrases } from '../../language/phrases';
import { MOST_READ, READERS } from '../../language/replies';
import { askAnythingElse, readAnythingElse } from './askAnythingElse';
import { leads, store, storeKnown } from './askAnswered';
import { askBack, doubtAbout, settled, showBackOf, whichOf, yesNoChoices } from './askBack';
import type { Ask } from './askModel';
import { askParts, partsOf, readParts } from './askParts';
import { choicesUnder, questionText, questionsOf, readAnswer, type Question } from './askReading';
import { WAIT, go, type Outcome, type Play, type Reply, type StepKind, type StepWorld } from './step';

function put(step: Ask, play: Play): Outcome {
  if (step.also) return askParts(step, play);
  const { language } = play.world;
  play.say(questionText(step, language), choicesUnder(step, step, play.world));
  return WAIT;
}

/** Stores the answer and leads on. */
function answered(step: Ask, value: Value, play: Play, why?: string): Outcome {
  store(step, value, play, why);
  return step.anythingElse ? askAnythingElse(step, value, play) : leads(step, value);
}

export const ask: StepKind<Ask> = {
  enter(step, play) {
    const { language, person } = play.world;
    const known = person.fields[step.field];
    if (known?.type === step.reply && !step.also && step.known === 'skip') {
      storeKnown(step, known, play);
      return leads(step, known);
    }
    if (known?.type === step.reply && step.known === 'confirm') {
      const text = step.confirm ?? phrases(language).stillRight(valueWords(known));
      return askBack(play, {
        field: step.field,
        text,
        ...(step.confirm && { fills: {} }),
        choices: yesNoChoices(language),
        aside: { kind: 'still right', value: known },
      });
    }
    return put(step, play);
  },
  choices(step, world, aside) {
    const about = aside?.kind === 'parts' ? aside.about : aside;
    if (about?.kind === 'which of') return whichOf(about.values, world.language);
    if (aside?.kind === 'anything else') return [];
    return choicesUnder(step, partsOf(step, aside)[0]!, world);
  },
  read(step, reply, world, aside) {
    if (aside?.kind === 'anything else') return readAnythingElse(step, reply, world, aside.values);
    if (aside && aside.kind !== 'parts') {
      const back = settled(reply, world, aside);
      if (back)
        return {
          ok: true,
          summary: back.summary,
          take(play) {
            if (back.value === null) return put(step, play);
            if (!('isKnown' in back && back.isKnown)) return answered(step, back.value, play);
            storeKnown(step, back.value, play);
            return leads(step, back.value);
          },
        };
    }
    if (step.skip && !isNone(step, reply) && isSkip(step, reply, world)) {
      const to = step.skip.to ?? NEXT;
      return {
        ok: true,
        summary: 'passing over the question',
        take(play) {
          play.note({ code: 'skipped' });
          return go(to);
        },
      };
    }
    if (step.also) return readParts(step, reply, world, aside);
    const reading = readAnswer(step, reply, world, {
      within: aside?.kind === 'which in' ? aside.span : undefined,
    });
    // What was tapped is not asked about.
    const showBack = reply.kind === 'choice' ? { when: 'never' as const } : showBackOf(step, world);
    const doubt = doubtAbout(reading, step, world, aside, showBack);
    if (doubt)
      return { ok: true, summary: doubtWords(reading.ok, step), take: (play) => askBack(play, doubt) };
    if (!reading.ok) return reading;
    return {
      ok: true,
      summary: READERS[step.reply].words,
      gathers: step.gather !== undefined && reply.kind === 'text',
      take(play) {
        if (reading.cutFrom) play.note({ code: 'text cut', kept: MOST_READ, of: reading.cutFrom });
        return answered(step, reading.value, play, reading.why);
      },
    };
  },
  exits: (step) => [
    ...(step.options ?? []).flatMap((option, index) =>
      option.to
        ? [{ kind: 'answer' as const, words: option.label, to: option.to, path: ['options', index, 'to'] }]
        : [],
    ),
    ...(step.yes ? [{ kind: 'answer' as const, words: 'yes', to: step.yes, path: ['yes'] }] : []),
    ...(step.no ? [{ kind: 'answer' as const, words: 'no', to: step.no, path: ['no'] }] : []),
    ...(step.skip?.to
      ? [
          {
            kind: 'skipped' as const,
            words: step.skip.label ?? 'skipped',
            to: step.skip.to,
            path: ['skip', 'to'],
          },
        ]
      : []),
    ...waitingExits(step),
  ],
  fallsTo(step) {
    const open = (step.options ?? [])
      .filter((option) => step.reply !== 'one of' || !option.to)
      .map(({ label }) => label);
    const answers =
      step.reply === 'one of' && !step.also
        ? open
        : step.reply === 'yes/no' && !step.also
          ? [...(step.yes ? [] : ['yes']), ...(step.no ? [] : ['no'])]
          : [
              questionsOf(step)
                .map(({ reply }) => READERS[reply].words)
                .join(' and '),
            ];
    return [
      ...(answers.length > 0
        ? [
            {
              by: 'answer' as const,
              words:
                answers.length > 2 ? `${answers[0]} and ${answers.length - 1} more` : answers.join(' or '),
            },
          ]
        : []),
      ...(step.skip && !step.skip.to
        ? [{ by: 'skipped' as const, words: step.skip.label ?? 'skipped' }]
        : []),
      ...(step.known === 'skip' && answers.length > 0
        ? [{ by: 'known already' as const, words: 'known already' }]
        : []),
    ];
  },
  texts: (step) => [
    step.text,
    step.confirm ?? '',
    step.anythingElse?.text ?? '',
    step.showBack?.text ?? '',
    ...(step.also ?? []).flatMap((part) => [
      part.text,
      ...(part.options ?? []).map(({ label }) => label),
      ...Object.values(part.variants ?? {}).flatMap((each) => [
        each.text ?? '',
        ...Object.values(each.options ?? {}),
      ]),
    ]),
    ...waitingTexts(step),
    ...(step.options ?? []).map((option) => option.label),
    ...Object.values(step.variants ?? {}).flatMap((each) => [
      each.text ?? '',
      each.retry ?? '',
      each.anythingElse ?? '',
      each.showBack ?? '',
      ...Object.values(each.options ?? {}),
    ]),
  ],
  words: (step) => step.text,
};

const doubtWords = (isRead: boolean, { reply }: Question): string =>
  isRead ? READERS[reply].words : `more than one ${reply === 'time' ? 'time' : 'day'}`;

/** "None" passes over a question, but where it is an answer. */
const isNone = ({ none }: Ask, reply: Reply): boolean =>
  none === true && reply.kind === 'text' && saysNone(fold(reply.text));

function isSkip(step: Ask, reply: Reply, world: StepWorld): boolean {
  if (reply.kind === 'choice') return reply.choiceId === 'skip';
  return (
    reply.kind === 'text' &&
    (isSkipWord(reply.text) ||
      readChoice(reply.text, [{ id: 'skip', label: step.skip!.label ?? phrases(world.language).skip }]).ok)
  );
}
