import { ApiLoops, StartLoop, StartedLoop } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { Problem, notFound } from '../platform/problem';
import { liveLoops, startLoopFor } from '../people/starting';
import { operation } from './operation';

/** Loops: which are live, and how one is started for somebody. */
export const loopOperations = ({ clock, woken }: { clock: Clock; woken: () => void }) => [
  operation({
    method: 'get',
    path: '/loops',
    id: 'readLoops',
    summary: 'Read which loops are live',
    scope: 'start loops',
    answer: ApiLoops,
    async handle({ db, client }) {
      return { loops: (await liveLoops(db, client.id)).map(({ name, lines }) => ({ name, lines })) };
    },
  }),
  operation({
    method: 'post',
    path: '/people/{personId}/loops',
    id: 'startLoop',
    summary: 'Start a loop for a person',
    description:
      'In the conversation that they used last on one of the loop’s lines. What consent, quiet hours and caps say holds for what it sends, as it does for all.',
    scope: 'start loops',
    body: StartLoop,
    answer: StartedLoop,
    async handle({ db, client, caller, params, body, afterwards }) {
      const { rowCount } = await db.query('select from person where client_id = $1 and id = $2', [
        client.id,
        params.personId,
      ]);
      if (rowCount === 0) throw notFound('person');
      const loop = (await liveLoops(db, client.id)).find(
        ({ name }) => name.toLowerCase() === body.loop.toLowerCase(),
      );
      if (!loop) throw new Problem(404, 'Not found', `loop: the client has no live loop “${body.loop}”.`);
      if ((await startLoopFor(db, client.id, loop, [params.personId!], clock.now(), caller)) === 0)
        throw new Problem(
          409,
          'Not reachable',
          `The person is reachable on none of the lines of “${loop.name}”.`,
        );
      afterwards(woken);
      return { started: true as const, loop: loop.name };
    },
  }),
];
