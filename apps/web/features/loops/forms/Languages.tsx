import type { LoopSurroundings } from '@dart-loop/contract';
import type { Step } from '@dart-loop/core';
import { Words } from '../../../ui/Words';
import { Group, TextRow } from '../../../ui/rows';
import { MergedRow } from '../merging';
import type { FormProps } from './formProps';

const NAMES = new Intl.DisplayNames('en-GB', { type: 'language' });

/** The same in the client's other languages; what is left empty is said in the first. */
export function Languages({
  step,
  set,
  known,
  labels,
  list,
}: {
  step: Extract<Step, { kind: 'say' | 'ask' | 'book' | 'answer' }>;
  set: FormProps<'say'>['set'];
  known: LoopSurroundings | undefined;
  labels: { id: string; label: string }[];
  list: 'choices' | 'options';
}) {
  const [, ...others] = known?.client.languages ?? [];
  const languages = [...new Set([...others, ...Object.keys(step.variants ?? {})])];
  if (languages.length === 0)
    return (
      <Words kind="small">The client uses one language. Wordings in other languages are edited here.</Words>
    );
  const put = (language: string, change: (variant: Record<string, unknown>) => Record<string, unknown>) => {
    const variant = Object.fromEntries(
      Object.entries(change({ ...(step.variants?.[language] as Record<string, unknown>) })).filter(
        ([, value]) =>
          value !== '' && !(typeof value === 'object' && Object.keys(value as object).length === 0),
      ),
    );
    const { [language]: _before, ...rest } = step.variants ?? {};
    const variants = { ...rest, ...(Object.keys(variant).length > 0 && { [language]: variant }) };
    set([['variants'], Object.keys(variants).length > 0 ? variants : undefined]);
  };
  return (
    <>
      {languages.map((language) => {
        const variant = step.variants?.[language] as
          | {
              text?: string;
              retry?: string;
              choices?: Record<string, string>;
              options?: Record<string, string>;
            }
          | undefined;
        const name = NAMES.of(language) ?? language;
        return (
          <Group key={language} title={`In ${name}`}>
            <MergedRow
              label={`Text in ${name}`}
              placeholder={step.text}
              multiline
              value={variant?.text ?? ''}
              onChange={(text) => put(language, (before) => ({ ...before, text }))}
            />
            {labels.map(({ id, label }) => (
              <TextRow
                key={id}
                label={`“${label}” in ${name}`}
                placeholder={label}
                value={variant?.[list]?.[id] ?? ''}
                onChange={(typed) =>
                  put(language, (before) => {
                    const { [id]: _was, ...rest } = (before[list] ?? {}) as Record<string, string>;
                    return { ...before, [list]: { ...rest, ...(typed.trim() !== '' && { [id]: typed }) } };
                  })
                }
              />
            ))}
            {step.kind === 'ask' && (
              <QuestionWords step={step} language={language} name={name} put={put} set={set} />
            )}
            {step.kind === 'answer' && (
              <MergedRow
                label={`What it says in ${name} where it does not know`}
                placeholder={step.notKnown?.text}
                value={step.variants?.[language]?.notKnown ?? ''}
                onChange={(notKnown) => put(language, (before) => ({ ...before, notKnown }))}
              />
            )}
            {step.kind !== 'answer' && step.retry && (
              <MergedRow
                label={`Retry in ${name}`}
                placeholder={step.retry.text}
                value={variant?.retry ?? ''}
                onChange={(retry) => put(language, (before) => ({ ...before, retry }))}
              />
            )}
          </Group>
        );
      })}
    </>
  );
}

/** What a question says beside its text: its further questions, and what it asks about an answer. */
function QuestionWords({
  step,
  language,
  name,
  put,
  set,
}: {
  step: Extract<Step, { kind: 'ask' }>;
  language: string;
  name: string;
  put: (language: string, change: (variant: Record<string, unknown>) => Record<string, unknown>) => void;
  set: FormProps<'ask'>['set'];
}) {
  const variant = step.variants?.[language];
  return (
    <>
      {(step.also ?? []).map((part, index) => (
        <MergedRow
          key={part.field}
          label={`Question ${index + 2} in ${name}`}
          placeholder={part.text}
          value={part.variants?.[language]?.text ?? ''}
          onChange={(text) =>
            set([
              ['also', index, 'variants'],
              {
                ...part.variants,
                [language]: { ...part.variants?.[language], text: text.trim() || undefined },
              },
            ])
          }
        />
      ))}
      {step.anythingElse && (
        <MergedRow
          label={`“Anything else?” in ${name}`}
          placeholder={step.anythingElse.text}
          value={variant?.anythingElse ?? ''}
          onChange={(anythingElse) => put(language, (before) => ({ ...before, anythingElse }))}
        />
      )}
      {step.showBack?.text && (
        <MergedRow
          label={`Words for showing it back in ${name}`}
          placeholder={step.showBack.text}
          value={variant?.showBack ?? ''}
          onChange={(showBack) => put(language, (before) => ({ ...before, showBack }))}
        />
      )}
    </>
  );
}
