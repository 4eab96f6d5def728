import type { LoopPath } from '../../loops/check/paths';
import { findStep, type Loop } from '../../loops/model/loop';
import type { FieldTypes, Value } from '../../people/person';
import { questionsOf, waitingOf, type Ask, type Question, type Step } from '../steps';
import { READERS, readReply } from '../../language/replies';

/**
 * What a person and the clock do to go a path, as lines of a written conversation, and what has to be known
 * of the person.
 */
export interface PathLines {
  lines: string[];
  fields: Record<string, Value>;
}

/** Labels beyond the first page of a channel are written, the others tapped. */
const FIRST_PAGE = 8;
/** Nothing that is asked for can be read out of this. */
const UNREADABLE = '???';

/**
 * How to go a path. Conditions and chance are not the person's: where one of them decides otherwise, the
 * conversation leaves the path there.
 */
export function pathLines(loop: Loop, path: Pick<LoopPath, 'steps'>, types: FieldTypes): PathLines {
  const keyword = loop.cues.find((cue) => cue.kind === 'keyword' && cue.match !== 'pattern');
  const link = loop.cues.find((cue) => cue.kind === 'link');
  const lines = [
    keyword?.kind === 'keyword'
      ? keyword.words[0]!
      : link?.kind === 'link'
        ? `/start ${link.ref}`
        : `/scene ${loop.scenes[0]?.id ?? ''}`,
  ];
  const fields: Record<string, Value> = {};
  for (const { stepId, by, words } of path.steps) {
    const step = findStep(loop, stepId)?.step;
    if (!step) continue;
    if (by === 'known already' && step.kind === 'ask') {
      for (const question of questionsOf(step)) {
        const value = exampleOf(question, types);
        if (value) fields[question.field] = value;
      }
    } else lines.push(...linesOf(step, by, words));
  }
  return { lines, fields };
}

function linesOf(step: Step, by: LoopPath['steps'][number]['by'], words: string): string[] {
  switch (by) {
    case 'choice': {
      const choices = step.kind === 'say' ? (step.choices ?? []) : [];
      return [
        tapOf(
          words,
          choices.findIndex(({ label }) => label === words),
        ),
      ];
    }
    case 'answer':
      return step.kind === 'ask'
        ? [
            ...questionsOf(step).flatMap((question) => answerOf(question, words)),
            ...(step.gather ? [`+${step.gather}`] : []),
            ...(isShownBack(step) ? ['yes'] : []),
            ...(step.anythingElse ? ["that's all"] : []),
          ]
        : [];
    case 'skipped':
      return ['skip'];
    case 'could not read':
      return Array.from({ length: 1 + (waitingOf(step)?.retry?.times ?? 0) }, () => unreadable(step));
    case 'something else':
      return [unreadable(step)];
    case 'does not know':
      return ["I don't know"];
    case 'never mind':
      return ['never mind'];
    case 'no reply':
      return Array.from({ length: 1 + (waitingOf(step)?.reminders?.length ?? 0) }, () => '+next');
    case 'given up':
      return ['+next'];
    case 'itself':
      return step.kind === 'wait' ? ['+next'] : [];
    case 'booked':
      return ['a'];
    case 'nothing more':
      return ["that's all"];
    case 'not known': {
      // What nothing has answered comes back as not known.
      if (step.kind !== 'answer') return [];
      const { notKnown, gather } = step;
      const once = [UNREADABLE, ...(gather ? [`+${gather}`] : [])];
      return Array.from({ length: notKnown?.times ?? 1 }, () => once).flat();
    }
    case 'wants a person':
      return ['Can I talk to a person?'];
    case 'handed back':
      return ['~ step in', '~ hand back'];
    case 'delivered':
      return ['! 200'];
    case 'not delivered':
      return ['! failed'];
    case 'condition':
    case 'chance':
    case 'go':
    case 'off duty':
    case 'nothing free':
    case 'known already':
      return [];
  }
}

/** Whether an answer is shown back each time; one that is tapped is not, but where several are. */
const isShownBack = (step: Ask): boolean =>
  step.showBack?.when === 'always' && (step.also !== undefined || step.reply !== 'one of');

const tapOf = (label: string, index: number) =>
  /[{}]/.test(label) ? `#${index + 1}` : index < FIRST_PAGE && index >= 0 ? `[${label}]` : label;

const unreadable = (step: Step) =>
  step.kind === 'ask' && questionsOf(step).some(({ reply }) => reply === 'text')
    ? '@file odd.bin'
    : UNREADABLE;

/** An answer that the question can read, by the way it is to lead. */
function answerOf(step: Question, words: string): string[] {
  if (step.reply === 'one of') {
    const options = step.options ?? [];
    const named = options.findIndex((option) => option.label === words && option.to !== undefined);
    const index = named >= 0 ? named : options.findIndex((option) => option.to === undefined);
    return [tapOf(options[index]?.label ?? words, index)];
  }
  if (step.reply === 'several of') return ['a'];
  if (step.reply === 'yes/no') return [words.startsWith('yes') ? 'yes' : 'no'];
  if (step.reply === 'file') return ['@file photo.jpg'];
  if (step.reply === 'place') return ['@place 54.1, -2.3'];
  if (step.reply === 'number')
    return [String(step.min ?? (step.max !== undefined ? Math.min(step.max, 12) : 12))];
  if (step.reply === 'date' && step.days === 'past') return ['yesterday'];
  return [READERS[step.reply].example];
}

function exampleOf(step: Question, types: FieldTypes): Value | null {
  const label = step.options?.[0]?.label;
  if (step.reply === 'one of') return label === undefined ? null : { type: 'one of', value: label };
  const [said = ''] = answerOf(step, 'yes');
  const reading = readReply(types[step.field] ?? step.reply, said, {
    country: 'GB',
    language: 'en',
    now: Date.UTC(2026, 0, 5),
    zone: 'UTC',
    days: 'any',
  });
  return reading.ok ? reading.value : null;
}
