import { Words } from '../../../../ui/Words';
import type { CueEditor } from './cueEditor';

export const fallback: CueEditor<'fallback'> = {
  words: 'Fallback',
  more: 'a message that nothing else starts on',
  fresh: () => ({ kind: 'fallback' }),
  Own,
};

function Own() {
  return <Words>Starts on any message that nothing else starts on.</Words>;
}
