import { z } from 'zod';
import type { Outgoing } from './channel';
import type { Said } from './said';
import type { Template, TemplateCall, TemplateHeader } from './template';

const HEADER_WORDS: Record<TemplateHeader, string> = {
  image: 'a picture',
  video: 'a video',
  file: 'a document',
};

export const TemplateName = z
  .string()
  .regex(/^[a-z0-9_]{1,512}$/, 'a template’s name has small letters, digits and underscores');

/**
 * The template of that name that may be used now: in the person's language, else in English, else in whatever
 * language it was approved in; or the sentence why there is none.
 */
export function usableTemplate(
  templates: Template[],
  { name, parameters, file = '' }: TemplateCall,
  language: string,
): Template | string {
  const named = templates.filter((each) => each.name === name);
  if (named.length === 0) return `the line has no template “${name}”`;
  const rank = (each: Template) =>
    each.language.slice(0, 2) === language ? 0 : each.language.startsWith('en') ? 1 : 2;
  const [best] = named.filter((each) => each.status === 'approved').sort((a, b) => rank(a) - rank(b));
  if (!best) return `the template “${name}” is ${named[0]!.status}, and only an approved one may go`;
  if (best.parameters !== parameters.length)
    return `the template “${name}” takes ${best.parameters} parameters, and the step gives ${parameters.length}`;
  if (parameters.some((each) => each.trim() === ''))
    return `a parameter of the template “${name}” is empty for this person`;
  if (best.header && file.trim() === '')
    return `the template “${name}” shows ${HEADER_WORDS[best.header]} above its text, and the step gives none`;
  return best;
}

/** A template as it stands in a step, before anything is filled in. */
export type TemplateWish = Pick<TemplateCall, 'name' | 'file'> & { parameters?: string[] };

/** As {@link usableTemplate}, whoever it is for: what is filled in is only known for a person. */
export const usableForAnybody = (templates: Template[], { parameters = [], ...call }: TemplateWish) =>
  usableTemplate(templates, { ...call, parameters: parameters.map(() => 'x') }, 'en');

/** The message that a template makes: its buttons bring back the step's choices, in their order. */
export function fromTemplate(template: Template, call: TemplateCall, said: Said): Outgoing {
  const taps = said.choices
    .slice(0, template.buttons.length)
    .map(({ ref }, index) => ({ label: template.buttons[index]!, ref }));
  return {
    channel: 'whatsapp',
    text: template.body.replace(
      /\{\{(\d+)\}\}/g,
      (whole, number: string) => call.parameters[Number(number) - 1] ?? whole,
    ),
    taps,
    ...(taps.length > 0 && { as: 'buttons' as const }),
    template: {
      name: template.name,
      language: template.language,
      parameters: call.parameters,
      ...(template.header && call.file && { header: { what: template.header, address: call.file } }),
    },
  };
}
