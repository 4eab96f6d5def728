import type { Attention } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import type { Matter } from './matter';

/** Sources that could not be read the last time; pages that are gone or fail and whose words answer yet. */
export const sources: Matter = {
  seenBy: 'builders',
  async of(db) {
    const { rows } = await db.query<{
      slug: string;
      client: string;
      id: string;
      name: string;
      failure: string | null;
      gone: number;
      failed: number;
      page: string | null;
    }>(
      `
        select k.slug, k.name as client, s.id, s.name, s.failure,
          count(g.id) filter (where g.state = 'gone')::int as gone,
          count(g.id) filter (where g.state = 'failed')::int as failed,
          min(g.address) filter (where g.state in ('gone', 'failed')) as page
        from source s
        join client k on k.id = s.client_id
        left join source_page g on g.client_id = s.client_id and g.source_id = s.id
          and g.state in ('gone', 'failed')
          and exists (select from passage p where p.client_id = g.client_id and p.page_id = g.id)
        where k.archived_at is null
        group by k.id, s.client_id, s.id
        having s.failure is not null or count(g.id) > 0
        order by k.id, s.id limit 20`,
    );
    return rows.map((row): Attention => ({
      id: `source-${row.id}`,
      weight: 'warning',
      client: { slug: row.slug, name: row.client },
      channel: null,
      words: wordsOf(row),
      action: { words: 'Open source', href: `/${row.slug}/answers/${row.id}` },
    }));
  },
};

interface Row {
  name: string;
  failure: string | null;
  gone: number;
  failed: number;
  page: string | null;
}

function wordsOf({ name, failure, gone, failed, page }: Row): string {
  if (failure !== null) return `The source ${name} could not be read: ${failure.replace(/\.$/, '')}.`;
  const parts = [
    ...(gone > 0
      ? [
          `${counted(gone, 'page is', 'pages are')} gone, and ${gone === 1 ? 'its' : 'their'} words answer for a day yet`,
        ]
      : []),
    ...(failed > 0 ? [`${counted(failed, 'page', 'pages')} could not be read`] : []),
  ];
  return `Of the source ${name} ${parts.join('; ')}: ${page ?? ''}${gone + failed > 1 ? ' and others' : ''}.`;
}
