import type { KeptFile } from '@dart-loop/contract/files';
import { fileNamed } from '@dart-loop/core/people/client';
import { KINDS } from '../files/useFiles';
import { type Step, kindOf, durationWords } from '@dart-loop/core';

/** What a step without a text of its own reads as. */
export function readWords(step: Step): string {
  if (step.kind === 'say' || step.kind === 'ask' || step.kind === 'set') return '';
  if (step.kind === 'book')
    return [
      `a free time in ${step.calendar}, saved in ${step.day} and ${step.time}`,
      ...inOther(step.variants),
    ].join(', ');
  if (step.kind === 'answer')
    return [
      kindOf(step).words(step),
      ...(step.notKnown?.text ? [`where they do not say it: “${step.notKnown.text}”`] : []),
      ...inOther(step.variants),
    ].join(', ');
  return kindOf(step).words(step);
}
/** In which other languages a step is worded. */
const inOther = (variants: object | undefined): string[] =>
  variants && Object.keys(variants).length > 0 ? [`also in ${Object.keys(variants).join(', ')}`] : [];
/** What else a say or an ask does, in words. */
export function details(step: Step): string {
  if (step.kind === 'say')
    return [
      ...(step.media ? [attachedWords(step.media)] : []),
      ...(step.link ? [`with the link “${step.link.label}” to ${step.link.address}`] : []),
      ...(step.typing ? [`after ${step.typing} s of typing`] : []),
      ...(step.whenShut
        ? [
            `where the window has shut ${step.whenShut.do === 'drop' ? 'left out' : step.whenShut.do === 'other line' ? 'said on another line' : `as the template ${step.whenShut.name}`}`,
          ]
        : []),
      ...inOther(step.variants),
    ].join(', ');
  if (step.kind !== 'ask') return '';
  return [
    ...(step.min !== undefined || step.max !== undefined
      ? [`from ${step.min ?? 'any'} to ${step.max ?? 'any'}`]
      : []),
    ...(step.days && step.days !== 'ahead' ? [step.days === 'past' ? 'in the past' : 'past or ahead'] : []),
    ...(step.known === 'skip'
      ? ['not asked when known']
      : step.known === 'confirm'
        ? ['confirmed when known']
        : []),
    ...(step.skip ? ['may be skipped'] : []),
    ...(step.anythingElse ? ['until nothing else is named'] : []),
    ...(step.showBack?.when === 'always' ? ['shown back'] : []),
    ...(step.gather ? [`gathered for ${durationWords(step.gather)}`] : []),
    ...inOther(step.variants),
  ].join(', ');
}
/** What can be chosen or answered, in its order. */
export function labelled(step: Step): { id: string; label: string; to?: string }[] {
  return (step.kind === 'say' ? step.choices : step.kind === 'ask' ? step.options : undefined) ?? [];
}
export function removed<T>(list: T[], index: number): T[] | undefined {
  const rest = list.filter((_, at) => at !== index);
  return rest.length > 0 ? rest : undefined;
}

/** What goes with a text: a file of the client's by its name, else an address. */
function attachedWords({ what, address }: { what: KeptFile['what']; address: string }): string {
  const key = fileNamed(address);
  return key
    ? `with the ${KINDS[what]} “${key.replaceAll('_', ' ')}”`
    : `with the ${KINDS[what]} at ${address}`;
}
