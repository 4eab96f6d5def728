import type { Cue } from '../../../engine/cues';
import { waitingOf } from '../../../engine/steps';
import { check, type CheckWorld, type Placed } from '../check';

/** Begin without the person doing anything just then. */
const UNASKED: Cue['kind'][] = ['tag', 'list joined', 'field changed', 'date', 'silence', 'incoming webhook'];

/** Messages and lists that nobody has agreed to on some path. */
export const consent = check<'no opt-in'>(function* (world) {
  const { loop, lines } = world;
  const sms = lines.find((line) => line.channel === 'sms');
  const unasked =
    sms && loop.cues.find((cue) => UNASKED.includes(cue.kind) && (!cue.lines || cue.lines.includes(sms.key)));
  if (unasked)
    yield {
      code: 'no opt-in',
      severity: 'warns',
      cueId: unasked.id,
      about: 'sms',
      reason: `This cue starts the loop on SMS without the person having just written; whoever has not opted in there gets nothing until they write. Let it listen on lines where people have opted in, or accept that.`,
    };
  for (const { step, where, at } of reachedUnasked(world))
    if (step.kind === 'set')
      for (const change of step.changes)
        if (change.do === 'join list' || change.do === 'opt in')
          yield {
            ...at,
            code: 'no opt-in',
            severity: 'warns',
            about: change.do === 'join list' ? change.list : 'line',
            reason: `The set in ${where} ${change.do === 'join list' ? `joins the list “${change.list}”` : 'opts the person in'} on a way on which they were asked nothing; ask first, so that there is an opt-in with its wording.`,
          };
});

/** Steps that some way reaches before the person has answered anything. */
function reachedUnasked(world: CheckWorld): Placed[] {
  const byId = new Map(world.places.map((place) => [place.step.id, place]));
  const reached = new Set<string>();
  const open = world.places.slice(0, 1);
  while (open.length > 0) {
    const place = open.pop()!;
    if (reached.has(place.step.id)) continue;
    reached.add(place.step.id);
    for (const way of world.ways(place))
      if (way.to && (!waitingOf(place.step) || way.by === 'no reply')) open.push(byId.get(way.to.step.id)!);
  }
  return world.places.filter(({ step }) => reached.has(step.id));
}
