import { CHANNEL_KINDS } from './client';
import { durationWords } from '../loops/model/basics';
import type { Condition } from './condition';

/**
 * A condition as a sentence words it: "party size is at least 4 and not tagged vip". `readCondition` in
 * `edit/typedCondition.ts` reads every such sentence back, but that an answer is read as a field of the same
 * name.
 */
export function conditionWords(condition: Condition): string {
  const key = (words: string) => words.replaceAll('_', ' ');
  const several = condition.all ?? condition.any;
  if (several)
    return several.length === 1
      ? conditionWords(several[0]!)
      : several.map(inner).join(condition.all ? ' and ' : ' or ');
  if (condition.not) return `not (${conditionWords(condition.not)})`;
  const turned = condition.is === false ? 'not ' : '';
  if (condition.tag !== undefined) return `${turned}tagged ${quoted(condition.tag)}`;
  if (condition.list !== undefined) return `${turned}on the list ${quoted(condition.list)}`;
  if (condition.channels) return `on ${condition.channels.join(' or ')}`;
  if (condition.line !== undefined) return `on the line ${condition.line}`;
  if (condition.cue !== undefined) return `came by the cue ${condition.cue}`;
  if (condition.language !== undefined) return `speaks ${condition.language}`;
  if (condition.time) return `it is between ${condition.time.from} and ${condition.time.to}`;
  if (condition.weekdays)
    return `it is ${condition.weekdays.map((day) => day[0]!.toUpperCase() + day.slice(1)).join(' or ')}`;
  if (condition.open !== undefined) return condition.open ? 'it is open' : 'it is closed';
  if (condition.reach !== undefined) return `${turned}reachable ${lineWords('on', condition.reach)}`;
  if (condition.optedIn !== undefined)
    return `${turned}opted in${condition.optedIn === 'any' ? '' : ` ${lineWords('on', condition.optedIn)}`}`;
  if (condition.optedOut !== undefined)
    return `${turned}opted out${condition.optedOut === 'any' ? '' : ` ${lineWords('of', condition.optedOut)}`}`;
  const within = condition.within === undefined ? '' : ` in the last ${durationWords(condition.within)}`;
  const scene = (of: { scene?: string }) => (of.scene === undefined ? '' : ` at scene ${of.scene}`);
  if (condition.entered !== undefined) return `${turned}entered ${quoted(condition.entered)}${within}`;
  if (condition.finished !== undefined) return `${turned}finished ${quoted(condition.finished)}${within}`;
  if (condition.underWay)
    return `${turned}under way in ${quoted(condition.underWay.loop)}${scene(condition.underWay)}`;
  if (condition.left) return `${turned}left ${quoted(condition.left.loop)}${scene(condition.left)}`;
  if (condition.heard) return `${turned}came into ${quoted(condition.heard.loop)} by ${condition.heard.cue}`;
  if (condition.source !== undefined) return `${turned}came from ${quoted(condition.source)}`;
  if (condition.seen !== undefined) return `${turned}seen in the last ${durationWords(condition.seen)}`;
  if (condition.met !== undefined) return `${turned}first met in the last ${durationWords(condition.met)}`;
  if (condition.segment !== undefined) return `${turned}in the segment ${quoted(condition.segment)}`;
  const subject = key(condition.field ?? condition.answer ?? '');
  const { value: operand } = condition;
  const written = operand === true ? 'yes' : operand === false ? 'no' : String(operand);
  // “language is es” asks for the language that a person is spoken with, not for a field of that name.
  const value =
    operand === undefined
      ? ''
      : ` ${/^[a-z]{2}$/i.test(written) && subject === 'language' ? `"${written}"` : quoted(written)}`;
  switch (condition.is) {
    case 'equal':
      return `${subject} is${value}`;
    case 'not equal':
      return `${subject} is not${value}`;
    case 'known':
    case 'unknown':
      return `${subject} is ${condition.is}`;
    case 'contains':
    case 'starts with':
      return `${subject} ${condition.is}${value}`;
    case 'between':
      return `${subject} is between${value} and ${quoted(String(condition.to))}`;
    case 'changed in the last':
      return `${subject} has changed in the last${value}`;
    default:
      return `${subject} is ${String(condition.is)}${value}`;
  }
}

function inner(condition: Condition): string {
  const several = condition.all ?? condition.any;
  return several?.length === 1
    ? inner(several[0]!)
    : several
      ? `(${conditionWords(condition)})`
      : conditionWords(condition);
}

const lineWords = (preposition: 'on' | 'of', which: string) =>
  which === 'any'
    ? `${preposition} any line`
    : (CHANNEL_KINDS as readonly string[]).includes(which)
      ? `${preposition} ${which}`
      : `${preposition} the line ${which}`;

/** Words that a sentence would read otherwise when they stood without quotation marks. */
const MISREAD =
  /\b(and|or)\b|\b(in the (last|next)|at scene)\b|\bby\b|^(not|is|at (least|most)|above|below|before|after|between|changed|known|unknown|any|the)\b/i;
const PLAIN = /^[\p{L}\p{N}+#@€£$-](?:[\p{L}\p{N} .,:;+@’'&/#%!?€£$_-]*[\p{L}\p{N}.!?%#€£$_-])?$/u;

/** A name or value within a sentence: in quotation marks where it might be read as something else. */
export function quoted(words: string): string {
  return PLAIN.test(words) && !MISREAD.test(words) && !/ {2}/.test(words)
    ? words
    : `"${words.replace(/[\\"]/g, '\\$&')}"`;
}
