import { Words } from '../../../../ui/Words';
import type { CueEditor } from './cueEditor';

export const firstMessage: CueEditor<'first message'> = {
  words: 'The first message ever',
  more: 'whatever it says',
  fresh: () => ({ kind: 'first message' }),
  Own,
};

function Own() {
  return <Words>Starts on a person’s first message, whatever it says, if nothing else starts on it.</Words>;
}
