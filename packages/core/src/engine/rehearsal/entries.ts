import { CHANNELS, type Channel, type Outgoing } from '../../channels';
import { pageOf } from '../../channels/pages';
import type { Said } from '../../channels/said';
import { sendings, type Via } from '../../consent/permission';
import { choiceLetter } from '../../language/choice';
import { momentWords } from '../../time/zones';
import type { Response } from '../decide';
import { winnerOf, type Decision } from '../decide/decision';
import { readChoiceRef } from '../run/choiceRef';
import { stageWords } from '../run/stage';
import type { Note } from '../steps';
import { indexOf, type Offered, type Rehearsal, type RehearsalEntry } from './state';

/**
 * The stage direction first, then our messages as the channel would get them, then what would have gone
 * elsewhere.
 */
export function entriesOf(state: Rehearsal, response: Response): RehearsalEntry[] {
  const channel = CHANNELS[state.line.channel];
  const at = state.now;
  const entries: RehearsalEntry[] = [];
  if (response.decision || response.notes.length > 0)
    entries.push({
      at,
      from: 'stage',
      text: response.notes.map((note) => directionOf(state, note)).join(' '),
      reason: response.decision ? whyWords(response.decision) : '',
    });
  for (const effect of response.effects) {
    if (effect.kind === 'release')
      entries.push(
        ...state.heldBack.map((each) => entryOf(each.body, each.said, each.by, channel, at, null)),
      );
    else if (effect.kind === 'public reply')
      entries.push({
        at,
        from: 'us',
        text: effect.text,
        choices: [],
        parts: null,
        by: null,
        via: 'public reply',
      });
    else if (effect.kind === 'send') {
      for (const { body, may } of sendings(channel, effect.said, effect.permission))
        if (may.may === 'go' && state.refuses)
          entries.push({
            at,
            from: 'outside',
            text: `Would not arrive: ${body.text}`,
            reason: `${channel.name} refuses it`,
          });
        else if (may.may === 'go')
          entries.push(entryOf(body, effect.said, effect.by, channel, at, may.via?.kind ?? null));
        else
          entries.push({
            at,
            from: 'outside',
            text: `Would be ${may.may === 'wait' ? 'held back' : 'dropped'}: ${body.text}`,
            reason: may.reason,
          });
    } else if (effect.kind === 'alert')
      entries.push({
        at,
        from: 'outside',
        text: `Would tell ${effect.to.join(', ') || 'nobody'} by ${effect.by}: ${effect.text}`,
        reason: '',
      });
    else if (effect.kind === 'book')
      entries.push({
        at,
        from: 'outside',
        text: `Would ${effect.isMove ? 'move the booking to' : 'book'} ${effect.calendar}, ${momentWords(effect.from, state.client.timeZone)}`,
        reason: '',
      });
    else if (effect.kind === 'cancel booking')
      entries.push({
        at,
        from: 'outside',
        text: `Would cancel ${effect.calendar}, ${momentWords(effect.from, state.client.timeZone)}`,
        reason: '',
      });
    else if (effect.kind === 'deliver')
      entries.push({
        at,
        from: 'outside',
        text: `Would send what is known of the person to ${effect.destination}`,
        reason: '',
      });
    else if (effect.kind === 'asked' && effect.came === 'not known')
      entries.push({
        at,
        from: 'outside',
        text: `Would note that nothing answers “${effect.question}”`,
        reason: '',
      });
    else if (effect.kind === 'send out')
      entries.push({
        at,
        from: 'outside',
        text: `Would send out to ${effect.address}: ${JSON.stringify(effect.body)}`,
        reason: '',
      });
  }
  return entries;
}

/** A note as it is told; of a tag also that no loop waits for it, as somebody may have meant one to. */
function directionOf({ versions }: Rehearsal, note: Note): string {
  const words = stageWords(note);
  if (note.code !== 'tag') return words;
  const starts = indexOf(versions).others.has(`tag:${note.on ? 'added' : 'removed'}:${note.tag}`);
  return starts ? words : words.replace(/\.$/, '; nothing starts on it.');
}

function entryOf(
  body: Outgoing,
  said: Said,
  by: string | null,
  channel: Channel,
  at: number,
  via: Via['kind'] | null,
): RehearsalEntry {
  const links = body.taps.flatMap((tap) => ('url' in tap ? [tap.label] : []));
  // The labels as they are seen; where nothing can be tapped they stand in the text, in whole.
  const labels = channel.taps
    ? body.taps.flatMap((tap) => ('ref' in tap ? [tap.label] : []))
    : offeredIn(said, channel).map((each) => each.label);
  const last = channel.render(said).at(-1);
  const choices = channel.taps || last?.text === body.text ? labels : [];
  return {
    at,
    from: 'us',
    text: body.text || body.media?.address || links.join(', '),
    choices,
    parts: body.parts ?? null,
    by,
    via,
  };
}

/** The choices that a message shows, with the one that leads to more. */
export function offeredIn(said: Said, channel: Channel): Offered[] {
  const { shown, more } = pageOf(said, channel.choices);
  const taps = channel
    .render(said)
    .flatMap((body) => body.taps.flatMap((tap) => ('ref' in tap ? [tap] : [])));
  const seen = (ref: string, label: string) => taps.find((tap) => tap.ref === ref)?.label ?? label;
  // Every reference is one of ours here.
  const all = shown.map(({ ref, label, index }) => ({
    ref: readChoiceRef(ref)!,
    label,
    shown: seen(ref, label),
    typed: choiceLetter(index),
  }));
  return more
    ? [...all, { ref: readChoiceRef(more.ref)!, label: more.label, shown: more.label, typed: more.label }]
    : all;
}

/** Who answered and why, then who did not and why. */
export function whyWords(decision: Decision): string {
  const winner = winnerOf(decision);
  const losers = decision.candidates.filter((candidate) => candidate !== winner);
  return [
    `${winner.who} (${winner.place}): ${winner.reason}.`,
    ...losers.map((each) => `Not ${each.who}: ${each.reason}.`),
  ].join(' ');
}
