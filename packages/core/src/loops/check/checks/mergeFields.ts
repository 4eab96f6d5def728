import { textEdits } from '../../edit/textEdits';
import { itemNames } from '../../../engine/steps/go';
import { questionsOf, type Step } from '../../../engine/steps';
import { parseMerge } from '../../../language/merge';
import { check, shorten } from '../check';
import { textsOf } from '../texts';
import { surelyKnown } from '../ways';

/** Merge fields that cannot be read, that are always empty, or that may be. */
export const mergeFields = check<
  'merge field' | 'unknown answer' | 'brief entry missing' | 'file missing' | 'may be empty'
>(function* ({ loop, places, known }) {
  const answers = new Set(
    places.flatMap(({ step }) => {
      if (step.kind === 'ask') return questionsOf(step).map(({ field }) => field);
      if (step.kind === 'book') return [step.day, step.time];
      if (step.kind === 'go' && step.each) return itemNames(step.each);
      return step.kind === 'say' && step.choices ? [step.id] : [];
    }),
  );
  const sure = surelyKnown(loop);
  for (const { step, where, at } of places) {
    const empty = new Set<string>();
    for (const text of textsOf(step)) {
      const { parts, problems } = parseMerge(text);
      for (const problem of problems)
        yield {
          ...at,
          code: 'merge field',
          severity: 'stops',
          about: text.slice(problem.at, problem.at + 40),
          reason: `In ${where}, at character ${problem.at + 1} of “${shorten(text)}”: ${problem.reason}.`,
        };
      // Within a condition of the text, somebody has thought of what is missing.
      const guarded = /\{%/.test(text);
      for (const part of parts) {
        if (part.kind !== 'merge') continue;
        const [group, key] = part.path.split('.') as [string, string];
        if (group === 'answers' && !answers.has(key))
          yield {
            ...at,
            code: 'unknown answer',
            severity: 'warns',
            about: part.path,
            reason: `In ${where}: no question of this loop stores “${key}”, and no say with choices has that id, so {{ answers.${key} }} is always empty.`,
          };
        else if (group === 'brief' && known.brief && !known.brief[key]?.trim() && part.fallback === null)
          yield {
            ...at,
            code: 'brief entry missing',
            severity: 'warns',
            about: part.path,
            reason: `In ${where}: the client’s brief says nothing under “${key.replaceAll('_', ' ')}”, so {{ ${part.path} }} is empty; fill the brief or give a fallback.`,
          };
        else if (group === 'file' && known.files && !(key in known.files))
          yield {
            ...at,
            code: 'file missing',
            severity: 'stops',
            about: part.path,
            reason: `In ${where}: the client has no file “${key.replaceAll('_', ' ')}”, so nothing would be sent; add it to the client’s files, or choose another.`,
          };
        else if (
          (group === 'person' || group === 'answers') &&
          part.fallback === null &&
          !guarded &&
          !ALWAYS.has(part.path) &&
          !isItsOwn(step, text, part.path) &&
          !/\bdefault\b/.test(part.source) &&
          !sure.has(step.id, part.path)
        )
          empty.add(part.path);
      }
    }
    for (const path of empty) {
      const fallback = path === 'person.first_name' ? 'there' : 'unknown';
      yield {
        ...at,
        code: 'may be empty',
        severity: 'warns',
        about: path,
        reason: `In ${where}: {{ ${path} }} may be empty, because nothing on some way to it asks for it; give it a fallback, such as {{ ${path} | default: "${fallback}" }}.`,
        ...(path === 'person.first_name' && {
          fix: {
            words: 'Add the fallback “there”',
            edits: textEdits(step, (text) => withFallback(text, path, fallback)),
          },
        }),
      };
    }
  }
});

/** Where an answer is shown back, it is known. */
const isItsOwn = (step: Step, text: string, path: string): boolean =>
  step.kind === 'ask' &&
  questionsOf(step).some(({ field }) => path === `answers.${field}`) &&
  [step.showBack?.text, ...Object.values(step.variants ?? {}).map(({ showBack }) => showBack)].includes(text);

/** Have a value for everybody. */
const ALWAYS = new Set(['person.language', 'person.tags', 'person.lists']);

/** The text with a fallback in the merge fields of a path that have none. */
function withFallback(text: string, path: string, fallback: string): string {
  return parseMerge(text)
    .parts.map((part) =>
      part.kind === 'words'
        ? part.text
        : part.path === path && part.fallback === null
          ? part.source.replace(path, `${path} | default: "${fallback}"`)
          : part.source,
    )
    .join('');
}
