import { valueWords } from '../model/person';
import type { Note } from './steps';

/** A note as a stage direction: one sentence with its full stop, for the conversation between the messages. */
export function stageWords(note: Note): string {
  switch (note.code) {
    case 'cue heard':
      return `“${note.keyword}” matched ${note.match === 'exactly' ? 'exactly' : `as ${note.match === 'first word' ? 'the first word' : 'a whole word'}`}. ${note.loop} begins.`;
    case 'late tap':
      return `“${note.label}” was tapped late. ${note.loop} starts again from that choice.`;
    case 'run replaced':
      return `The run of ${note.loop} that was under way gives way.`;
    case 'choice read':
      return note.how === 'tap'
        ? `Tapped “${note.label}”. To ${note.to}.`
        : `Read as “${note.label}”, ${howWords(note.how)}. To ${note.to}.`;
    case 'reply read':
      return `Read as ${note.type === 'email' ? 'an email address' : note.type === 'yes/no' ? 'yes or no' : `a ${note.type === 'phone' ? 'phone number' : note.type}`.replace('a text', 'text')}. ${note.field} = ${valueWords(note.value)}.`;
    case 'could not read':
      return `Could not be read: ${note.reason}${note.of > 0 && note.tries <= note.of ? ` (retry ${note.tries} of ${note.of})` : ''}.`;
    case 'gave up':
      return `No retries left. To ${note.to}.`;
    case 'no reply':
      return `No reply in ${note.after.replace(/(\d+)m$/, '$1 min').replace(/(\d)([shd])$/, '$1 $2')}. To ${note.to}.`;
    case 'field set':
      return `${note.field} = ${valueWords(note.value)}.`;
    case 'field not set':
      return `${note.field} was not set: ${note.reason}.`;
    case 'tag':
      return `Tag ${note.tag} ${note.on ? 'on' : 'off'}.`;
    case 'went':
      return `To ${note.to}.`;
    case 'finished':
      return `${note.loop} is finished.`;
    case 'circle':
      return `Stopped in ${note.scene}: it goes round in a circle without waiting for the person.`;
    case 'unusable':
      return `Stopped: ${note.reason}.`;
    case 'nobody':
      return `Nobody answers: ${note.reason}. The conversation waits for a person.`;
  }
}

function howWords(how: 'letter' | 'number' | 'label' | 'close to its label'): string {
  return how === 'letter' ? 'by its letter' : how === 'number' ? 'by its number' : how === 'label' ? 'by its label' : how;
}
