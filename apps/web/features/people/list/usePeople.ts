import { useMemo } from 'react';
import useSWR from 'swr';
import useSWRInfinite from 'swr/infinite';
import type { PeopleCount, PeoplePage, PeopleVocabulary } from '@dart-loop/contract';

/** What is asked for: a search, a sentence, and the fields that are shown. */
export interface Asked {
  client: string;
  q: string;
  where: string;
  columns: readonly string[];
}

/** The people that are asked for, a page at a time, with how many there are. */
export function usePeople({ client, q, where, columns }: Asked) {
  const query = `q=${encodeURIComponent(q)}&where=${encodeURIComponent(where)}`;
  const path = (after?: string | null) =>
    `/clients/${client}/people?${query}&columns=${columns.join(',')}${after ? `&after=${after}` : ''}`;
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const count = useSWR<PeopleCount, Error>(`/clients/${client}/people/count?${query}`, {
    keepPreviousData: true,
  }).data;
  const head = useSWR<PeoplePage, Error>(path(), { keepPreviousData: true });
  const rest = useSWRInfinite<PeoplePage, Error>(
    (index: number, previous: PeoplePage | null) => {
      const next = index === 0 ? head.data?.next : previous?.next;
      return next ? path(next) : null;
    },
    { initialSize: 0, revalidateFirstPage: false, revalidateOnFocus: false },
  );
  const pages = useMemo(
    () => [...(head.data ? [head.data] : []), ...(rest.size > 0 ? (rest.data ?? []) : [])],
    [head.data, rest.data, rest.size],
  );
  const rows = useMemo(() => pages.flatMap((page) => page.rows), [pages]);
  const hasMore = Boolean(pages.at(-1)?.next);
  return {
    known,
    count,
    rows,
    hasMore,
    isLoaded: head.data !== undefined,
    error: head.error,
    again: () => void head.mutate(),
    loadMore: () => {
      if (hasMore && !rest.isValidating) void rest.setSize(rest.size + 1);
    },
    exportAs: (format: 'csv' | 'jsonl' | 'vcard') =>
      window.location.assign(`/api/clients/${client}/people/export?format=${format}&${query}`),
  };
}
