import type { Answer, Ask, Step } from '../../../engine/steps';
import { check, type Placed } from '../check';

const NAMES = new Intl.DisplayNames('en-GB', { type: 'language' });

/** What of a question's further texts is not in a language. */
function lackingIn({ also = [], anythingElse, showBack, variants }: Ask, language: string): string[] {
  const variant = variants?.[language];
  return [
    ...also.flatMap(({ field, options = [], variants: own }) => [
      ...(own?.[language]?.text ? [] : [`the question for ${field.replaceAll('_', ' ')}`]),
      ...options.filter(({ id }) => !own?.[language]?.options?.[id]).map(({ label }) => `“${label}”`),
    ]),
    ...(anythingElse?.text && !variant?.anythingElse ? ['“anything else?”'] : []),
    ...(showBack?.text && !variant?.showBack ? ['the wording in which the answer is shown back'] : []),
  ];
}

/** What of an answer step's own texts is not in a language; what it finds is as its sources have it. */
const answerLacks = ({ text, notKnown, variants }: Answer, language: string): string[] => [
  ...(text && !variants?.[language]?.text ? ['the text'] : []),
  ...(notKnown?.text && !variants?.[language]?.notKnown ? ['what it says where it does not know'] : []),
];

const lacking = (step: Step, lacks: string[], language: string, where: string, at: Placed['at']) => ({
  ...at,
  code: 'language missing' as const,
  severity: 'warns' as const,
  about: language,
  reason: `The ${step.kind} in ${where} lacks ${lacks.length > 3 ? `${lacks.slice(0, 3).join(', ')} and ${lacks.length - 3} more` : lacks.join(', ')} in ${NAMES.of(language) ?? language}; it is said in the first language instead.`,
});

/** Steps that lack a language which other steps of the loop have. */
export const languages = check<'language missing'>(function* ({ places, known }) {
  const [own, ...spoken] = known.client?.languages ?? [];
  const written = new Set(
    places.flatMap(({ step }) => ('variants' in step ? Object.keys(step.variants ?? {}) : [])),
  );
  const wanted = spoken.filter((language) => written.has(language) && language !== own);
  for (const { step, where, at } of places) {
    if (step.kind === 'answer')
      for (const language of wanted) {
        const lacks = answerLacks(step, language);
        if (lacks.length > 0) yield lacking(step, lacks, language, where, at);
      }
    if (step.kind !== 'say' && step.kind !== 'ask' && step.kind !== 'book') continue;
    for (const language of wanted) {
      const variant = step.variants?.[language];
      const labels = step.kind === 'say' ? step.choices : step.kind === 'ask' ? step.options : [];
      const theirs: Record<string, string> =
        (variant &&
          ('choices' in variant ? variant.choices : 'options' in variant ? variant.options : undefined)) ??
        {};
      const lacks = [
        ...(variant?.text ? [] : ['the text']),
        ...(labels ?? []).filter(({ id }) => !theirs[id]).map(({ label }) => `“${label}”`),
        ...(step.retry && !variant?.retry ? ['the retry'] : []),
        ...(step.kind === 'ask' ? lackingIn(step, language) : []),
      ];
      if (lacks.length > 0) yield lacking(step, lacks, language, where, at);
    }
  }
});
