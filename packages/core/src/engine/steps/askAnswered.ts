import { NEXT, type Target } from '../../loops/model/basics';
import type { Value } from '../../people/person';
import type { Question } from './askReading';
import { go, type Outcome, type Play } from './step';

/** Stores an answer, as a value of the person and as an answer of the run; `why`: why it is no surer. */
export function store({ field }: Pick<Question, 'field'>, value: Value, play: Play, why?: string): void {
  play.note({ code: 'reply read', type: value.type, field, value, ...(why !== undefined && { why }) });
  play.setField(field, value);
  play.answer(field, value);
}

/** Notes that an answer was known already. */
export function storeKnown({ field }: Pick<Question, 'field'>, value: Value, play: Play): void {
  play.note({ code: 'known already', field, value });
  play.answer(field, value);
}

/** Where an answer leads. */
export function leads(
  step: { yes?: Target; no?: Target; options?: readonly { label: string; to?: Target }[] },
  value: Value,
): Outcome {
  if (value.type === 'yes/no') return go((value.value ? step.yes : step.no) ?? NEXT);
  if (value.type === 'one of')
    return go(step.options?.find((option) => option.label === value.value)?.to ?? NEXT);
  return go(NEXT);
}
