import { Words } from '../../../../ui/Words';
import type { CueEditor } from './cueEditor';

export const firstMessage: CueEditor<'first message'> = {
  words: 'The first message ever',
  more: 'whatever it says',
  fresh: () => ({ kind: 'first message' }),
  Own,
};

function Own() {
  return <Words>Whatever somebody writes for the first time, where nothing else hears it.</Words>;
}
