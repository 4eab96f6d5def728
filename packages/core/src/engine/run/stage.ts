import type { ChoiceHow } from '../../language/choice';
import { counted } from '../../language/counted';
import { durationWords } from '../../loops/model/basics';
import { valueWords } from '../../people/person';
import { momentWords } from '../../time/zones';
import { READERS } from '../../language/replies';
import type { Note } from '../steps';

const LANGUAGE_WORDS = new Intl.DisplayNames('en-GB', { type: 'language' });

/** Why it was asked about an answer before it was taken. */
const ASKED_BACK: Record<Extract<Note, { code: 'asked back' }>['what'], string> = {
  'did you mean': 'Likely a slip of typing: asks whether another was meant.',
  'still right': 'Known already: asks whether it is still right.',
  'is that right': 'Not said outright: asks whether it was read right.',
  'cancel or move': 'Asks whether to cancel, or for another time.',
  'anything else': 'Asks whether there is anything else.',
  'which of': 'It could be either of two: asks which.',
  'which in': 'It names no single one: asks which in there.',
};

/**
 * A note as a stage direction: one sentence with its full stop, for the conversation between the messages.
 */
export function stageWords(note: Note): string {
  switch (note.code) {
    case 'cue heard':
      return `${capital(note.how)}. ${note.loop} begins.`;
    case 'started by':
      return `${note.by} started ${note.loop}.`;
    case 'resumed':
      return `${note.loop} goes on where it was.`;
    case 'late tap':
      return `“${note.label}” was tapped late. ${note.loop} starts again from that choice.`;
    case 'run replaced':
      return `The run of ${note.loop} that was under way gives way.`;
    case 'choice read':
      return note.how === 'tap'
        ? `Tapped “${note.label}”. To ${note.to}.`
        : `Read as “${note.label}”, ${HOW_WORDS[note.how]}. To ${note.to}.`;
    case 'reply read':
      return `Read as ${note.type === 'text' ? 'text' : READERS[note.type].words}${note.why ? ` (${note.why})` : ''}. ${note.field} = ${valueWords(note.value)}.`;
    case 'language told':
      return `Writes in ${LANGUAGE_WORDS.of(note.language)}, and is answered in it from here on where the loop has words for it.`;
    case 'gathering':
      return `Waits ${note.seconds} s for more before reading it.`;
    case 'asked back':
      return ASKED_BACK[note.what];
    case 'known already':
      return `${note.field} is known: ${valueWords(note.value)}.`;
    case 'skipped':
      return 'The question was passed over.';
    case 'called off':
      return `Called off. To ${note.to}.`;
    case 'could not read':
      return `Could not be read: ${note.reason}${note.of > 0 && note.tries <= note.of ? ` (retry ${note.tries} of ${note.of})` : ''}.`;
    case 'does not know':
      return `Says that they do not know. To ${note.to}.`;
    case 'something else':
      return `Something else than the answers. To ${note.to}.`;
    case 'gave up':
      return `No retries left. To ${note.to}.`;
    case 'reminded':
      return `No reply in ${durationWords(note.after)}: reminder ${note.nth} of ${note.of}.`;
    case 'no reply':
      return `No reply in ${durationWords(note.after)}. To ${note.to}.`;
    case 'waits':
      return `Waits until ${momentWords(note.until, note.zone)}.`;
    case 'waited':
      return 'The wait is over.';
    case 'quiet hours':
      return `Quiet hours: goes on at ${momentWords(note.until, note.zone)}.`;
    case 'its turn later':
      return `${note.loop} waits for its turn: ${note.what}.`;
    case 'held back':
      return `Held back: ${note.reason}.`;
    case 'released':
      return 'What was held back goes out now.';
    case 'sent as template':
      return `The window is shut, so it goes as the template “${note.name}”.`;
    case 'template not usable':
      return `It cannot go as a template: ${note.reason}.`;
    case 'said elsewhere':
      return `The window is shut, so it is said on ${note.line}.`;
    case 'said for':
      return `Said here for ${note.line}, where it may not go.`;
    case 'no other line':
      return 'The person has no other line on which it may go.';
    case 'dropped':
      return `Dropped: ${note.reason}.`;
    case 'lead form':
      return `The lead form ${note.form} was submitted.`;
    case 'question unseen':
      return `The question of ${note.loop} is only shown now, so this is no answer to it.`;
    case 'more shown':
      return `Choices from number ${note.from + 1} of ${note.of} are shown.`;
    case 'answered privately':
      return 'Answered in private.';
    case 'comment removed':
      return 'The comment was removed.';
    case 'field set':
      return note.value === null ? `${note.field} cleared.` : `${note.field} = ${valueWords(note.value)}.`;
    case 'field not set':
      return `${note.field} was not set: ${note.reason}.`;
    case 'tag':
      return `Tag ${note.tag} ${note.on ? 'on' : 'off'}.`;
    case 'list':
      return `List ${note.list} ${note.on ? 'joined' : 'left'}.`;
    case 'split':
      return `${capital(note.because)}. To ${note.to}.`;
    case 'arm':
      return `Arm ${note.arm}. To ${note.to}.`;
    case 'went':
      return `To ${note.to}.`;
    case 'went back':
      return `Comes back to ${note.to}.`;
    case 'next item':
      return `Item ${note.nth} of ${note.of}.`;
    case 'no items':
      return `There is nothing in ${note.field.replaceAll('_', ' ')} to go through.`;
    case 'loop called':
      return `Goes to the loop ${note.loop}${note.back ? ', to come back' : ''}.`;
    case 'came back':
      return `Back in ${note.loop}.`;
    case 'handed over':
      return `Handed over to ${note.to}${note.note ? `: ${note.note}` : ''}.`;
    case 'set aside':
      return `This could not be processed: ${note.reason}. It is kept on the line’s page, where it can be tried again.`;
    case 'nobody on duty':
      return 'Nobody is on duty.';
    case 'hand-over given up':
      return `Nobody stepped in for ${durationWords(note.after)}. To ${note.to}.`;
    case 'recorded':
      return `Recorded for ${note.who}. No loop answers.`;
    case 'left the team':
      return `${note.by} has left the team. It waits for whoever is there.`;
    case 'stepped in':
      return `${note.by} stepped in. The loop holds still.`;
    case 'handed back':
      return `${note.by} handed back: ${note.how}.`;
    case 'alert':
      return `Alert to ${note.to === 0 ? 'nobody' : counted(note.to, 'person', 'people')} by ${note.by === 'sms' ? 'SMS' : note.by === 'telegram' ? 'Telegram' : 'email'}.`;
    case 'to be delivered':
      return `Goes out to ${note.destination}.`;
    case 'sent out':
      return `Sent out to ${note.host}; waits for its answer.`;
    case 'delivered':
      return note.ok ? 'Delivered.' : `Not delivered: ${note.reason}. To ${note.to}.`;
    case 'booked':
      return `${note.moved ? 'Moved' : 'Booked'}: ${note.calendar}, ${momentWords(note.from, note.zone)}.`;
    case 'booking cancelled':
      return `Cancelled ${note.calendar}, ${momentWords(note.from, note.zone)}.`;
    case 'booked already':
      return `${note.calendar} is booked for that very time already.`;
    case 'times offered':
      return note.count === 0
        ? `Nothing is free in ${note.calendar}. To ${note.to}.`
        : `Offers ${counted(note.count, 'free time')} of ${note.calendar}.`;
    case 'time gone':
      return `${momentWords(note.from, note.zone)} is not free any more.`;
    case 'consent':
      if (note.what === 'help') return 'Asked for help.';
      if (note.scope === 'list')
        return note.what === 'opt-in' ? `Confirmed the list ${note.list}.` : `Left the list ${note.list}.`;
      if (note.scope === 'everything') return 'Opted out of everything. Nothing more is sent on any line.';
      return note.what === 'opt-out'
        ? 'Opted out. Nothing more is sent on this line.'
        : 'Opted in on this line.';
    case 'asked to confirm':
      return `Asked to confirm the list ${note.list}.`;
    case 'text cut':
      return `Only its first ${note.kept.toLocaleString('en-GB')} of ${note.of.toLocaleString('en-GB')} characters are kept; the conversation has all of it.`;
    case 'stop asked':
      return 'May want no more messages: asks.';
    case 'stop denied':
      return 'Goes on being written to.';
    case 'opted out':
      return `The person has opted out: ${note.what} stays unanswered.`;
    case 'moved':
      return `Moved to version ${note.version} of ${note.loop}.`;
    case 'sources asked':
      return 'Asks the sources.';
    case 'from sources':
      return fromSourcesWords(note);
    case 'sources not asked':
      return `The sources could not be asked: ${note.reason}.`;
    case 'picked':
      return `Chose “${note.from}”.`;
    case 'not known':
      return `Not in the sources${note.times > 1 ? `, ${note.times} times in a row` : ''}. To ${note.to}.`;
    case 'answered enough':
      return `${counted(note.times, 'question')} answered, as many as this step does.`;
    case 'wants a person':
      return `Wants a person. To ${note.to}.`;
    case 'finished':
      return `${note.loop} is finished.`;
    case 'stopped':
      return `${note.loop} was stopped by the team.`;
    case 'circle':
      return `Stopped in ${note.scene}: it goes round in a circle without waiting for the person.`;
    case 'chain cut':
      return `${note.loop} was not started: ${note.reason}.`;
    case 'unusable':
      return `Cannot be done: ${note.reason}.`;
    case 'nobody':
      return `Nobody answers: ${note.reason}. The conversation waits for a person.`;
  }
}

const BY_MODEL = { chose: ', chosen by the hosted model', worded: ', worded by the hosted model' };

function fromSourcesWords({ came, question, from, model }: Extract<Note, { code: 'from sources' }>): string {
  switch (came) {
    case 'answered':
      return `Answered from “${from ?? 'the sources'}”${model ? BY_MODEL[model] : ''}.`;
    case 'offered':
      return `Not sure what is meant by “${question}”: offers what comes near.`;
    case 'not known':
      return `The sources do not say “${question}”.`;
    case 'disagree':
      return `Two sources say different things to “${question}”, so nothing is said.`;
  }
}

const capital = (words: string) => (words[0] ?? '').toUpperCase() + words.slice(1);

const HOW_WORDS: Record<ChoiceHow, string> = {
  letter: 'by its letter',
  number: 'by its number',
  label: 'by its label',
  'close to its label': 'close to its label',
  'the other one': 'as the other was ruled out',
};
