import { MergePeople, OtherPerson, type MergePreview, type PersonPage } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { mergePeople, mergePreview, partPeople } from './merge';
import { personPage, whoIs } from './page';
import { byTeam } from './byTeam';
import { notFound } from '../platform/problem';
import { route } from '../http/route';

/** Two people who are one, or were taken for it. */
export function mergingRoutes({ clock }: { clock: Clock }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/merge',
      may: 'manage people',
      query: OtherPerson,
      async handle({ db, client, params, query }): Promise<MergePreview> {
        const { rows } = await db.query<{ key: string; name: string }>(
          'select key, name from field where client_id = $1',
          [client.id],
        );
        const preview = await mergePreview(
          db,
          client.id,
          params.personId!,
          query.other,
          Object.fromEntries(rows.map(({ key, name }) => [key, name])),
        );
        if (!preview) throw notFound('person');
        return preview;
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/:personId/merge',
      may: 'manage people',
      body: MergePeople,
      async handle({ db, client, params, body, account }): Promise<PersonPage> {
        const now = clock.now();
        const id = await mergePeople(db, client.id, params.personId!, body.other, {
          take: body.take,
          by: byTeam(account),
          now,
        });
        if (!id) throw notFound('person');
        await audit(db, client.id, account.id, now, 'made one of two people', {
          personId: params.personId,
          other: body.other,
        });
        return personPage(db, client.id, params.personId!, await whoIs(db, client.id, params.personId!), now);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/:personId/not-same',
      may: 'manage people',
      body: OtherPerson,
      async handle({ db, client, params, body, account }): Promise<void> {
        await whoIs(db, client.id, params.personId!);
        await whoIs(db, client.id, body.other);
        await db.query(
          `
            insert into not_same (client_id, one, other, at, by)
            values ($1, least($2::uuid, $3::uuid), greatest($2::uuid, $3::uuid), $4, $5)
              on conflict do nothing`,
          [client.id, params.personId, body.other, new Date(clock.now()), account.id],
        );
        await audit(db, client.id, account.id, clock.now(), 'said that two people are not one', {
          people: [params.personId, body.other],
        });
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/merges/:mergeId/part',
      may: 'manage people',
      async handle({ db, client, params, account }): Promise<{ kept: string; gone: string }> {
        const now = clock.now();
        const parted = await partPeople(db, client.id, params.mergeId!, { by: byTeam(account), now });
        if (!parted) throw notFound('merge');
        await audit(db, client.id, account.id, now, 'parted two people', parted);
        return parted;
      },
    }),
  ];
}
