import type { Turn } from '../run/turn';
import type { FromStaff } from './incoming';
import { finished, nothing, type Response } from './response';

/** Stepping in, writing, and handing back. What the team does is not decided: it is done. */
export function fromStaff(turn: Turn, incoming: FromStaff): Response {
  const { world } = turn;
  const held = turn.standing.held;
  if (incoming.kind === 'left the team') {
    if (held?.by !== incoming.by) return nothing(world);
    turn.standing.held = { ...held, by: null, since: world.now };
    turn.note({ code: 'left the team', by: incoming.by });
    return finished(turn, null, 'waiting on us');
  }
  delete turn.standing.stopped;
  if (incoming.kind === 'step in' || (incoming.kind !== 'hand back' && held?.by !== incoming.by)) {
    turn.standing.held = {
      team: null,
      note: '',
      runId: turn.runs.foremost?.id ?? null,
      ...held,
      by: incoming.by,
      since: world.now,
    };
    turn.note({ code: 'stepped in', by: incoming.by });
  }
  if (incoming.kind === 'write') {
    if (turn.standing.optedOut) turn.note({ code: 'opted out', what: 'a message of ours' });
    else turn.voice.say(incoming.text, incoming.by);
  }
  if (incoming.kind !== 'hand back') return finished(turn, null, 'waiting on us');
  // There is nothing to hand back; settling a conversation that waits is another matter.
  if (!held && incoming.how !== 'end') return nothing(world);
  const run = (held?.runId ? turn.runs.get(held.runId) : null) ?? turn.runs.foremost;
  const how =
    incoming.how === 'resume'
      ? 'the loop goes on'
      : incoming.how === 'end'
        ? 'settled'
        : `from the scene ${incoming.how.scene}`;
  turn.standing.held = null;
  turn.note({ code: 'handed back', by: incoming.by, how });
  if (incoming.how === 'end') turn.runs.stopAll();
  else if (run?.status === 'under way') {
    if (incoming.how === 'resume') turn.playing.handBack(run);
    else if (!turn.playing.restartAt(run, incoming.how.scene))
      turn.note({ code: 'unusable', reason: `the scene “${incoming.how.scene}” is missing` });
  }
  return finished(turn, null);
}
