import { readMore } from '../../run/choiceRef';
import type { Run } from '../../run/run';
import type { Turn } from '../../run/turn';
import type { Reply } from '../../steps';
import { finished, nobody, runCandidate, type Response } from '../response';
import type { Asked, Taker } from './asking';

type Tap = Extract<Asked, { kind: 'tap' }>;

/**
 * Place 4: a tapped choice. A late tap starts again from that choice where its version still can, else it is
 * place 12's.
 */
export const tappedChoice: Taker = ({ turn, incoming }) =>
  incoming.kind === 'tap' ? fromTap(turn, incoming) : null;

function fromTap(turn: Turn, tap: Tap): Response {
  const reply: Reply = { kind: 'choice', choiceId: tap.choiceId };
  const own = turn.runs.get(tap.runId);
  const from = readMore(tap.choiceId);
  const wins = (run: Run, reason: string) => ({
    candidates: [runCandidate(turn, run, 'tapped choice', 'won', reason)],
  });
  if (from !== null && own && turn.replies.showFrom(own, tap.stepId, from))
    return finished(turn, wins(own, 'further choices are asked for'));
  const reading = own && own.at?.step === tap.stepId ? turn.replies.readable(own, reply) : null;
  if (own && reading?.ok) {
    const decision = wins(own, `“${tap.label}” was tapped, and the run waits at that choice`);
    turn.replies.take(own, reply, reading);
    return finished(turn, decision);
  }
  return (
    lateTap(turn, tap, own, reply, from) ??
    nobody(turn, [], `the button “${tap.label}” belongs to a version that no longer has that choice`)
  );
}

function lateTap(turn: Turn, tap: Tap, own: Run | null, reply: Reply, from: number | null): Response | null {
  const offered = own ?? turn.world.tappedRun;
  const version = offered && turn.world.version(offered.loopId, offered.version);
  if (!offered || !version) return null;
  const reading =
    from === null
      ? turn.replies.readAt(version, tap.stepId, reply, offered, null)
      : turn.replies.furtherChoices(version, tap.stepId, offered, from);
  if (!reading?.ok) return null;
  const reason = `“${tap.label}” was tapped after the run had moved on, so it starts again from that choice`;
  const candidates = [runCandidate(turn, offered, 'tapped choice', 'won', reason)];
  turn.note({ code: 'late tap', loop: version.loop.name, label: tap.label });
  turn.playing.start(version, offered.cueId, { from: { stepId: tap.stepId, reading } });
  return finished(turn, { candidates });
}
