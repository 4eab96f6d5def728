import { isOptOutOfEverything, type ConsentWord } from '../../../consent/words';
import { phrases } from '../../../language/phrases';
import { finished, outranked, passedOver, won, type Response } from '../response';
import type { Asking, Taker } from './asking';

const MEANING = { 'opt-out': 'an opt-out word', 'opt-in': 'an opt-in word', help: 'a help word' } as const;

/** Place 2, words about being written to at all; and who has opted out is answered by nobody. */
export const consentWords: Taker = (asking) => {
  const { consent, turn } = asking;
  const { optedOut } = turn.standing;
  if (consent === 'opt-out' || (consent === 'opt-in' && optedOut) || (consent === 'help' && !optedOut))
    return aboutConsent(asking, consent);
  return optedOut ? fromOptedOut(asking) : null;
};

function aboutConsent({ turn, text, heard }: Asking, consent: ConsentWord): Response {
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
  const reason = `“${said.trim().slice(0, 40)}” is ${MEANING[consent]}`;
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
