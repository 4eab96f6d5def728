import { CHANNELS } from '../channels';
import { usableTemplate } from '../channels/templates';
import type { LineFacts } from '../model/client';
import { exitsOf, type Step } from '../run/steps';
import type { Loop } from '../model/loop';

/** A line as checks need it. */
export type KnownLine = Pick<LineFacts, 'key' | 'channel' | 'templates'>;

/** What a channel will not show or send as it stands in the loop. */
export interface ChannelFinding {
  code: 'label cut' | 'template' | 'held after a comment';
  reason: string;
  sceneId: string | null;
  stepId: string | null;
}

/** Labels that a line's channel cuts, templates that no line has, and what a comment cannot be answered with at once. */
export function channelFindings(loop: Loop, lines: KnownLine[]): ChannelFinding[] {
  const own = lines.filter((line) => loop.lines.length === 0 || loop.lines.includes(line.key));
  const findings: ChannelFinding[] = [];
  for (const [index, scene] of loop.scenes.entries())
    for (const step of scene.steps) {
      const where = `scene ${index + 1} (${scene.name})`;
      const add = (code: ChannelFinding['code'], reason: string) => findings.push({ code, reason, sceneId: scene.id, stepId: step.id });
      for (const { label, shown, channels } of cutLabels(step, own))
        add(
          'label cut',
          `The label “${label}” in ${where} is cut to “${shown}” on ${channels.join(' and ')}; the whole of it stands in the text.`,
        );
      if (step.kind !== 'say' || step.whenShut?.do !== 'template' || own.length === 0) continue;
      const { name, parameters = [] } = step.whenShut;
      const templates = own.flatMap((line) => line.templates ?? []);
      // What is filled in is only known for a person.
      const usable = usableTemplate(templates, { name, parameters: parameters.map(() => 'x') }, 'en');
      if (typeof usable === 'string') add('template', `In ${where}: ${usable}.`);
      else if ((step.choices?.length ?? 0) > usable.buttons.length)
        add('template', `In ${where}: the template “${name}” has ${usable.buttons.length} buttons for ${step.choices!.length} choices.`);
    }
  const held = heldAfterComment(loop);
  return held ? [...findings, held] : findings;
}

/** Labels of a step that are shown otherwise, with the channels that do so. */
function cutLabels(step: Step, lines: KnownLine[]): { label: string; shown: string; channels: string[] }[] {
  const labels = exitLabels(step);
  const found = new Map<string, { label: string; shown: string; channels: string[] }>();
  for (const channel of new Set(lines.map((line) => line.channel))) {
    const { taps, render, name } = CHANNELS[channel];
    if (!taps || labels.length === 0) continue;
    const shown = render({ text: '?', choices: labels.map((label, at) => ({ label, ref: `c${at}` })) }).flatMap((message) => message.taps);
    for (const tap of shown) {
      const label = 'ref' in tap ? labels[Number(/^c(\d+)$/.exec(tap.ref)?.[1])] : undefined;
      if (label === undefined || tap.label === label.replace(/\s+/g, ' ').trim()) continue;
      const same = found.get(`${label}|${tap.label}`);
      if (same) same.channels.push(name);
      else found.set(`${label}|${tap.label}`, { label, shown: tap.label, channels: [name] });
    }
  }
  return [...found.values()];
}

const exitLabels = (step: Step): string[] =>
  step.kind === 'say'
    ? (step.choices ?? []).map(({ label }) => label)
    : step.kind === 'ask'
      ? (step.options ?? []).map(({ label }) => label)
      : [];

/** A comment is answered with one message; where the loop says two before it waits, the second is held. */
function heldAfterComment(loop: Loop): ChannelFinding | null {
  if (!loop.cues.some((cue) => cue.kind === 'comment')) return null;
  const [scene] = loop.scenes;
  if (!scene) return null;
  const says = (step: Step) => step.kind === 'say' || step.kind === 'ask';
  const first = scene.steps.findIndex(says);
  const waits = first >= 0 && (scene.steps[first]!.kind === 'ask' || exitsOf(scene.steps[first]!).some((exit) => exit.kind === 'choice'));
  const second = first < 0 || waits ? undefined : scene.steps.slice(first + 1).find(says);
  if (!second) return null;
  return {
    code: 'held after a comment',
    reason: `After a comment only the first message of scene 1 (${scene.name}) goes out; what comes after it is held until the person writes. Let the first one ask something.`,
    sceneId: scene.id,
    stepId: second.id,
  };
}
