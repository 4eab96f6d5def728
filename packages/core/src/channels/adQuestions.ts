import { placeAfter, placeAt } from '../loops/check/ways';
import { exitsOf, type Step } from '../engine/steps';
import { findScene, type Loop, type StepPlace } from '../loops/model/loop';
import type { ClientFacts } from '../people/client';
import { stranger } from '../people/person';
import { fold } from '../language/fold';
import { merge, type MergeWorld } from '../language/merge';
import { inHtml } from './html';

/** A question as it is copied into an ad. */
export interface AdQuestion {
  /** The step that asks it in the loop. */
  step: string;
  question: string;
  kind: 'choice' | 'email' | 'phone' | 'number' | 'yes/no' | 'text';
  answers: string[];
  required: boolean;
}

/**
 * What an ad says and asks before the conversation goes on in the loop; to be kept as JSON or copied from a
 * sheet.
 */
export interface AdQuestions {
  format: 'dart-loop/ad-questions/1';
  loop: string;
  ads: string[];
  opening: string;
  questions: AdQuestion[];
  /** What is said after the last of them; empty where they end in something that an ad cannot say. */
  closing: string;
  privacyLink: string | null;
  /** Why it ends before the loop does; null where the loop ends too. */
  endsBecause: string | null;
}

/** A contradiction in an ad's first questions: a sentence, and the step that it is about, if it is one's. */
export interface AdContradiction {
  code: 'required and skippable' | 'answer leads nowhere' | 'no privacy link' | 'answers alike';
  reason: string;
  sceneId: string | null;
  stepId: string | null;
}

const anybody = ({ name, brief }: Pick<ClientFacts, 'name' | 'brief'>): MergeWorld => ({
  client: { name, brief, country: 'GB', timeZone: 'UTC', languages: [], openingHours: {} },
  line: { key: '', name: '', channel: 'messenger' },
  person: stranger(''),
  answers: {},
  language: 'en',
  now: 0,
  zone: 'UTC',
});

const MOST_QUESTIONS = 12;
const KINDS: Record<string, AdQuestion['kind']> = {
  email: 'email',
  phone: 'phone',
  number: 'number',
  'yes/no': 'yes/no',
  'one of': 'choice',
};

/**
 * The one place that every answer of a step leads to; a sentence where they part. Answers that end the loop
 * do not count.
 */
function onwards(loop: Loop, from: StepPlace): StepPlace | null | string {
  const { step } = from;
  const targets =
    step.kind === 'say' && step.choices?.length
      ? step.choices.map((choice) => choice.to)
      : step.kind === 'ask'
        ? [
            ...(step.options ?? []).map((option) => option.to ?? 'next'),
            ...[step.yes, step.no].flatMap((each) => each ?? []),
          ]
        : step.kind === 'go'
          ? [step.to ?? 'next']
          : ['next'];
  const going = [...new Set(targets.filter((target) => target !== 'end'))];
  if (going.length > 1)
    return 'the answers lead to different scenes, and an ad cannot ask by what was answered';
  return targets.length > 0 && going.length === 0 ? null : placeAfter(loop, from, going[0] ?? 'next');
}

function questionOf(step: Step, said: (text: string) => string): AdQuestion | null {
  if (step.kind === 'say' && step.choices?.length)
    return {
      step: step.id,
      question: said(step.text),
      kind: 'choice',
      answers: step.choices.map(({ label }) => said(label)),
      required: true,
    };
  if (step.kind !== 'ask') return null;
  const kind = KINDS[step.reply] ?? 'text';
  const answers = kind === 'yes/no' ? ['Yes', 'No'] : (step.options ?? []).map(({ label }) => said(label));
  return { step: step.id, question: said(step.text), kind, answers, required: !step.skip };
}

/**
 * The first questions of a loop that an ad opens, as far as they lead one after the other; null for a loop
 * without an ad click.
 */
export function adQuestions(loop: Loop, client: Pick<ClientFacts, 'name' | 'brief'>): AdQuestions | null {
  const cues = loop.cues.flatMap((cue) => (cue.kind === 'ad click' ? [cue] : []));
  if (cues.length === 0) return null;
  // An ad knows nothing of who reads it: what is merged of a person falls away.
  const said = (text: string) => merge(text, anybody(client));
  const opening: string[] = [];
  const closing: string[] = [];
  const questions: AdQuestion[] = [];
  let endsBecause: string | null = null;
  const seen = new Set<Step>();
  for (let here = placeAt(loop, 0, 0); here !== null && !seen.has(here.step);) {
    const { step } = here;
    seen.add(step);
    const question = questionOf(step, said);
    const ask = question !== null && closing.length === 0;
    if (question !== null && (!ask || questions.length === MOST_QUESTIONS)) {
      endsBecause = ask ? `an ad asks at most ${MOST_QUESTIONS} questions` : null;
      break;
    }
    if (question) questions.push(question);
    else if (step.kind === 'say') (questions.length === 0 ? opening : closing).push(said(step.text));
    else if (step.kind !== 'go' && step.kind !== 'set') {
      if (step.kind !== 'end') endsBecause = `a ${step.kind} comes next, which an ad cannot do`;
      break;
    } else if (step.kind === 'go' && step.loop !== undefined) {
      endsBecause = 'another loop comes next';
      break;
    }
    const next = onwards(loop, here);
    if (typeof next === 'string') {
      endsBecause = next;
      break;
    }
    here = next;
  }
  return {
    format: 'dart-loop/ad-questions/1',
    loop: loop.name,
    ads: cues.flatMap((cue) => cue.ads ?? []),
    opening: opening.join('\n\n'),
    questions,
    closing: closing.join('\n\n'),
    privacyLink: client.brief.privacy_link?.trim() || null,
    endsBecause,
  };
}

/**
 * What contradicts itself in an ad's first questions. `brief` null: it is not known whether there is a
 * privacy link.
 */
export function adContradictions(loop: Loop, brief: Record<string, string> | null): AdContradiction[] {
  const found = adQuestions(loop, { name: '', brief: brief ?? {} });
  if (!found || found.questions.length === 0) return [];
  const required = new Set(loop.cues.flatMap((cue) => (cue.kind === 'ad click' ? (cue.required ?? []) : [])));
  const contradictions: AdContradiction[] = [];
  for (const [index, { step: id, question, answers }] of found.questions.entries()) {
    const scene = loop.scenes.find((each) => each.steps.some((step) => step.id === id))!;
    const step = scene.steps.find((each) => each.id === id)!;
    const named = `Question ${index + 1} of the ad (“${question.slice(0, 40)}”)`;
    const add = (code: AdContradiction['code'], reason: string) =>
      contradictions.push({ code, reason, sceneId: scene.id, stepId: id });
    if (required.has(id) && step.kind === 'ask' && step.skip)
      add(
        'required and skippable',
        `${named} must be answered in the ad, and may be skipped in the loop; choose one.`,
      );
    for (const exit of exitsOf(step)) {
      if (exit.kind !== 'choice' || exit.to === 'next') continue;
      const silent = exit.to === 'end' || isSilent(loop, exit.to);
      if (silent)
        add('answer leads nowhere', `${named}: the answer “${exit.words}” leads to the end without a word.`);
    }
    const twice = answers.find(
      (answer, place) => answers.findIndex((other) => fold(other) === fold(answer)) < place,
    );
    if (twice) add('answers alike', `${named} has the answer “${twice}” twice.`);
  }
  if (brief !== null && found.privacyLink === null)
    contradictions.push({
      code: 'no privacy link',
      reason:
        'The ad asks questions, and the client’s brief has no privacy link; an ad that asks must show one.',
      sceneId: null,
      stepId: null,
    });
  return contradictions;
}

/** Whether a scene ends without saying, asking or handing over anything. */
function isSilent(loop: Loop, sceneId: string): boolean {
  const steps = findScene(loop, sceneId)?.scene.steps ?? [];
  return steps.every((step) => step.kind === 'end' || step.kind === 'set');
}

/** The same as a page of HTML to copy from, one row for each thing that the ad asks for. */
export function adQuestionsSheet(found: AdQuestions): string {
  const row = (what: string, text: string, more = '') =>
    `<tr><th>${what}</th><td>${inHtml(text)}</td><td>${more}</td></tr>`;
  const rows = [
    ...(found.opening ? [row('Opening', found.opening)] : []),
    ...found.questions.map(({ question, kind, answers, required }, index) =>
      row(
        `Question ${index + 1}`,
        question,
        `${answers.length > 0 ? `<ul>${answers.map((answer) => `<li>${inHtml(answer)}</li>`).join('')}</ul>` : kind}${required ? '' : ' (may be skipped)'}`,
      ),
    ),
    ...(found.closing ? [row('Closing', found.closing)] : []),
    row('Privacy link', found.privacyLink ?? 'missing'),
  ];
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${inHtml(`First questions of ${found.loop}`)}</title><style>
body { font: 16px/1.5 "Atkinson Hyperlegible", Verdana, sans-serif; color: #1E2330; margin: 2rem auto; max-width: 52rem; padding: 0 1rem; }
table { border-collapse: collapse; width: 100%; } th, td { border-top: 1px solid #E2DACB; padding: .6rem; text-align: left; vertical-align: top; white-space: pre-line; }
ul { margin: 0; padding-left: 1.2rem; }
</style></head><body><h1>${inHtml(`First questions of ${found.loop}`)}</h1><p>Ads: ${inHtml(found.ads.join(', ') || 'by reference')}</p><table>${rows.join('')}</table></body></html>
`;
}
