import type { Target } from '../model/basics';
import { fieldKey } from '../../language/slug';
import type { Step } from '../../engine/steps';
import type { NewStep } from './edits';
import { newAnswer, newBook } from './newSteps';

export const ARROW = /\s*(?:->|→|=>)\s*/;

/** An answer step with an exit: for what it does not know, with what it then says, or to a person. */
export function answerExit(step: Step, word: 'not known' | 'a person', rest: string, to: Target): Step {
  if (step.kind !== 'answer') return step;
  if (word === 'a person') return { ...step, person: to };
  const text = rest.split(ARROW)[0]!.replace(/:$/, '').trim();
  return { ...step, notKnown: { ...step.notKnown, ...(text && { text }), to } };
}

/**
 * The step that was typed as `word` and the rest of its line; null where the line only begins like one.
 * `target` finds the scene that words name.
 */
export function readStep(word: string, rest: string, target: (words: string) => Target): NewStep | null {
  switch (word) {
    case 'vary': {
      const arms = rest.split(/\s+\/\s+|\s*,\s*/).filter(Boolean);
      if (arms.length < 2) return null;
      return {
        kind: 'vary',
        arms: arms.slice(0, 10).map((arm, at) => {
          const [, name, weight] = /^(.*?)(?:\s+(\d{1,3})\s*%?)?$/.exec(arm)!;
          return {
            id: String.fromCharCode(97 + at),
            weight: weight ? Number(weight) : 50,
            to: target(name!),
          };
        }),
      };
    }
    case 'go':
    case '->':
    case '→': {
      const other = /^(?:to\s+)?(?:the\s+)?loop\s+["“]?(.+?)["”]?(,?\s+and back)?$/i.exec(rest);
      if (other) return { kind: 'go', loop: other[1]!, ...(other[2] && { back: true }) };
      const [, bare = '', back, field] =
        /^(.*?)(?:,?\s+(and back)(?:,?\s+for (?:each|every)\s+(?:of\s+)?([\w ]{1,40}))?)?$/is.exec(
          rest.replace(ARROW, '').replace(/^to\s+/i, ''),
        )!;
      if (bare === '' || bare.length > 60 || /[.?!]$/.test(bare)) return null;
      const to = target(bare);
      const returns = back !== undefined && to !== 'next' && to !== 'end';
      return {
        kind: 'go',
        to,
        ...(returns && { back: true }),
        ...(returns && field !== undefined && { each: { field: fieldKey(field) } }),
      };
    }
    case 'hand over': {
      const [, team, text] = /^(?:to\s+([^:]{1,60}?))?\s*(?::\s*(.+))?$/is.exec(rest) ?? [
        null,
        undefined,
        rest,
      ];
      return {
        kind: 'hand over',
        ...(team && { to: team.trim() }),
        ...(text && { text }),
        giveUp: { after: '1d', to: 'next' },
      };
    }
    case 'alert': {
      const [, by = 'email', to = '', text] =
        /^(email|sms|telegram)?\s*([^:\s]*(?:\s*,\s*[^:\s]+)*)\s*:\s*(.+)$/is.exec(rest) ?? [];
      if (text === undefined) return null;
      return {
        kind: 'alert',
        by: by.toLowerCase() as 'email',
        to: to
          .split(',')
          .map((each) => each.trim())
          .filter(Boolean),
        text,
      };
    }
    case 'send out':
      if (/^to\s+\S/i.test(rest) && !rest.includes('://'))
        return {
          kind: 'send out',
          destination: rest
            .replace(/^to\s+/i, '')
            .slice(0, 60)
            .trim(),
        };
      return /^https:\/\/\S+$/.test(rest) ? { kind: 'send out', address: rest, body: {} } : null;
    case 'book': {
      const [, calendar, text] = /^(?:in\s+([^:]{1,60}?))?\s*(?::\s*(.+))?$/is.exec(rest) ?? [];
      if (rest !== '' && calendar === undefined) return null;
      return newBook({ calendar: calendar?.trim(), text });
    }
    case 'answer':
      return newAnswer(rest || undefined);
    default:
      return null;
  }
}
