import { confirms, readLeaving } from '../../../consent/listWords';
import { phrases } from '../../../language/phrases';
import type { Turn } from '../../run/turn';
import { answeredByProgram } from '../response';
import type { Taker } from './asking';

/** How long a list that was asked about can be confirmed. */
const MOST_CONFIRMING = 7 * 86_400_000;

/** Place 2, words about a list: the person leaves one, or confirms one that they were asked about. */
export const listWords: Taker = ({ turn, text, heard }) => {
  const about = text === null || turn.standing.optedOut ? null : aboutList(turn, text);
  if (!about) return null;
  return answeredByProgram(turn, heard, about, 'words about a list go before all loops');
};

/** Does what the words say, and says which list they are about; null when they are about none. */
function aboutList(turn: Turn, text: string): string | null {
  const { world, standing } = turn;
  const words = phrases(turn.language);
  const leaving = readLeaving(text, world.person.lists, world.client.languages);
  if (leaving) {
    turn.changes.leaveList(leaving, text);
    turn.voice.confirm(words.leftList(leaving));
    return `“${text.trim().slice(0, 60)}” leaves the list ${leaving}`;
  }
  const { confirming } = standing;
  if (!confirming || world.now - confirming.since > MOST_CONFIRMING || !confirms(text, turn.language))
    return null;
  // A yes belongs to what was asked last.
  const run = turn.runs.foremost;
  const isAnswer =
    run?.at?.for === 'reply' &&
    run.at.since >= confirming.since &&
    turn.replies.readable(run, { kind: 'text', text })?.ok;
  if (isAnswer) return null;
  turn.changes.confirmList();
  turn.voice.confirm(words.joinedList(confirming.list));
  return `“${text.trim().slice(0, 40)}” confirms the list ${confirming.list}`;
}
