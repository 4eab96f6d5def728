import { isOptOutOfEverything, mayBeOptOut, type ConsentWord } from '../../../consent/words';
import { phrases } from '../../../language/phrases';
import { readReply } from '../../../language/replies';
import { readingWorld } from '../../steps/step';
import { answeredByProgram, finished, outranked, passedOver, won, type Response } from '../response';
import type { Asking, Taker } from './asking';

const MEANING = { 'opt-out': 'an opt-out word', 'opt-in': 'an opt-in word', help: 'a help word' } as const;

/** Place 2, words about being written to at all; and who has opted out is answered by nobody. */
export const consentWords: Taker = (asking) => {
  const { consent, turn } = asking;
  const { optedOut } = turn.standing;
  if (consent === 'opt-out' || (consent === 'opt-in' && optedOut) || (consent === 'help' && !optedOut))
    return aboutConsent(asking, consent);
  return optedOut ? fromOptedOut(asking) : (whetherToStop(asking) ?? askWhether(asking));
};

/** How long somebody who was asked whether to stop may answer, and how long they are not asked again. */
const MAY_ANSWER = 86_400_000;
const NOT_AGAIN = 7 * 86_400_000;

/** The answer to the question whether no more messages are wanted; null for anything but yes or no. */
function whetherToStop(asking: Asking): Response | null {
  const { turn, text } = asking;
  const { stopAsked } = turn.standing;
  if (!stopAsked || stopAsked.answered || turn.world.now - stopAsked.at > MAY_ANSWER) return null;
  turn.standing.stopAsked = { ...stopAsked, answered: true };
  const read = text === null ? null : readReply('yes/no', text, readingWorld(turn.stepWorld(null)));
  if (!read?.ok) return null;
  if (read.value.value === true) return aboutConsent(asking, 'opt-out');
  turn.note({ code: 'stop denied' });
  turn.voice.confirm(phrases(turn.language).goesOn);
  return byTheProgram(asking, `“${text!.trim().slice(0, 40)}” wants further messages`);
}

/** Asks whether no more messages are wanted, where neither a loop nor the team takes the words. */
function askWhether(asking: Asking): Response | null {
  const { turn, text, heard, reading } = asking;
  const { stopAsked, held } = turn.standing;
  const { now, client } = turn.world;
  if (text === null || held || heard.length > 0 || reading?.ok || !mayBeOptOut(text)) return null;
  if (stopAsked && now - stopAsked.at < NOT_AGAIN) return null;
  turn.standing.stopAsked = { at: now, answered: false };
  turn.note({ code: 'stop asked' });
  turn.voice.confirm(phrases(turn.language).wantNoMore(client.name));
  return byTheProgram(asking, `“${text.trim().slice(0, 40)}” may want no more messages`);
}

const byTheProgram = ({ turn, heard }: Asking, reason: string): Response =>
  answeredByProgram(turn, heard, reason, 'whether to be written to at all goes before all loops');

function aboutConsent(asking: Asking, consent: ConsentWord): Response {
  const { turn, text, heard } = asking;
  const { client } = turn.world;
  const words = phrases(turn.language);
  const already = turn.standing.optedOut;
  const said = text!;
  const lost = [
    ...outranked(turn, 'the words stop, start or explain everything, and go before all loops'),
    ...passedOver(heard, 'opt-out, opt-in and help words go before all loops'),
  ];
  if (consent === 'help') {
    turn.note({ code: 'consent', what: consent });
    turn.voice.confirm(words.help(client.name, client.brief.phone ?? ''));
  } else {
    const isOut = consent === 'opt-out';
    turn.changes.consent(consent, said, null, isOut && isOptOutOfEverything(said) ? 'everything' : 'line');
    // One confirmation, and nothing more.
    if (!isOut) turn.voice.confirm(words.startedAgain(client.name));
    else if (!already) turn.voice.confirm(words.stopped(client.name));
    if (isOut) turn.standing.held = null;
  }
  const reason = asking.consent
    ? `“${said.trim().slice(0, 40)}” is ${MEANING[consent]}`
    : `“${said.trim().slice(0, 40)}” says that no more messages are wanted`;
  return finished(turn, {
    candidates: [won('opt-out, opt-in or help word', 'the program itself', reason), ...lost],
  });
}

function fromOptedOut({ turn, incoming, heard }: Asking): Response {
  turn.note({ code: 'opted out', what: incoming.kind === 'tap' ? 'a tap' : 'a message' });
  return finished(turn, {
    candidates: [
      won(
        'opt-out, opt-in or help word',
        'nobody',
        'the person has opted out of this line: it is recorded, and nothing is sent until they write START',
      ),
      ...passedOver(heard, 'nothing is sent to a person who has opted out'),
    ],
  });
}
