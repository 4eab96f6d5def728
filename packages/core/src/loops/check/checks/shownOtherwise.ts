import { CHANNELS } from '../../../channels';
import type { Step } from '../../../engine/steps';
import { check, shorten, type CheckWorld } from '../check';

/**
 * Texts, labels and numbers of choices beyond what a channel shows at once, and how it shows them instead.
 */
export const shownOtherwise = check<'label cut' | 'text in pieces' | 'choices in pages'>(function* (world) {
  for (const place of world.places) {
    const { step, where, at } = place;
    for (const { label, shown, channels } of cutLabels(step, world))
      yield {
        ...at,
        code: 'label cut',
        severity: 'warns',
        about: label,
        reason: `The label “${label}” in ${where} is cut to “${shown}” on ${channels.join(' and ')}; the whole of it stands in the text.`,
      };
    if (step.kind !== 'say' && step.kind !== 'ask' && step.kind !== 'book') continue;
    const pieces = world.channels
      .filter(({ channel }) => channel !== 'sms')
      .map((line) => ({
        name: CHANNELS[line.channel].name,
        count: world.landings(place, line)[0]?.messages.length ?? 0,
      }));
    // A picture is a message of its own on some channels, and that is no text in pieces.
    for (const count of step.kind === 'say' && step.media
      ? []
      : new Set(pieces.map((each) => each.count).filter((each) => each > 1))) {
      const names = pieces.filter((each) => each.count === count).map(({ name }) => name);
      yield {
        ...at,
        code: 'text in pieces',
        severity: 'warns',
        about: names.join(),
        reason: `The text in ${where} is too long for one message: it comes in ${count} messages on ${names.join(' and ')}.`,
      };
    }
    const choices = labelsOf(step).length;
    for (const line of world.channels) {
      const { most, page } = CHANNELS[line.channel].choices;
      if (choices > most)
        yield {
          ...at,
          code: 'choices in pages',
          severity: 'notes',
          about: line.channel,
          reason: `The ${choices} choices in ${where} are shown in pages of ${page} on ${CHANNELS[line.channel].name}; “More” leads on.`,
        };
    }
  }
});

/** Labels of a step that are shown otherwise, with the channels that do so. */
function cutLabels(step: Step, world: CheckWorld): { label: string; shown: string; channels: string[] }[] {
  const labels = labelsOf(step);
  const found = new Map<string, { label: string; shown: string; channels: string[] }>();
  for (const { channel } of world.channels) {
    const { taps, render, name } = CHANNELS[channel];
    if (!taps || labels.length === 0) continue;
    const shown = render({
      text: '?',
      choices: labels.map((label, at) => ({ label, ref: `c${at}` })),
    }).flatMap((message) => message.taps);
    for (const tap of shown) {
      const label = 'ref' in tap ? labels[Number(/^c(\d+)$/.exec(tap.ref)?.[1])] : undefined;
      if (label === undefined || tap.label === label.replace(/\s+/g, ' ').trim()) continue;
      const same = found.get(`${label}|${tap.label}`);
      if (same) same.channels.push(name);
      else found.set(`${label}|${tap.label}`, { label, shown: tap.label, channels: [name] });
    }
  }
  return [...found.values()].map((each) => ({ ...each, label: shorten(each.label, 80) }));
}

const labelsOf = (step: Step): string[] =>
  step.kind === 'say'
    ? (step.choices ?? []).map(({ label }) => label)
    : step.kind === 'ask'
      ? (step.options ?? []).map(({ label }) => label)
      : [];
