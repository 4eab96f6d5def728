import useSWR, { useSWRConfig } from 'swr';
import type { SheetPage, Source, SourcesPage, UnansweredPage } from '@dart-loop/contract';
import { ENDINGS } from '@dart-loop/core/answers/documents/kinds';
import { counted } from '@dart-loop/core/language/counted';
import { sendFile } from '../session/api';

export const READING_MS = 1_000;

/** How often pages are read again. */
export const EVERY_WORDS = [
  ['by hand', 'By hand'],
  ['day', 'Every day'],
  ['week', 'Every week'],
] as const;

export const sourcesPath = (client: string) => `/clients/${client}/sources`;
export const pairsPath = (client: string) => `/clients/${client}/pairs`;
export const sheetPath = (client: string) => `/clients/${client}/sheet`;

export const openPath = (client: string) => `/clients/${client}/unanswered`;

/** Documents that can be chosen on this device; the server looks at what they hold. */
export const DOCUMENTS = ENDINGS.join(',');

export function useSources(client: string) {
  const path = sourcesPath(client);
  const { data, error, mutate } = useSWR<SourcesPage, Error>(path, {
    // While a site is read its progress is looked at; otherwise changes are told.
    refreshInterval: (page) => (page?.sources.some(({ reading }) => reading) ? READING_MS : 0),
  });
  return {
    page: data,
    error,
    mutate,
    add: async (chosen: File, progress: (part: number) => void): Promise<void> => {
      await sendFile<Source>(`${path}/documents?name=${nameOf(chosen)}`, chosen, progress);
      await mutate();
    },
  };
}

/** A file's name as it is kept: the end of a long one says what it is. */
export const nameOf = ({ name }: File): string =>
  encodeURIComponent(name.length > 80 ? name.slice(-80) : name);

/** What could not be answered. */
export const useOpen = (client: string) => useSWR<UnansweredPage, Error>(openPath(client));

export const useSheet = (client: string) => useSWR<SheetPage, Error>(sheetPath(client));

/** What hangs on the sources is read again. */
export function useSourcesChanged(client: string): () => Promise<unknown> {
  const { mutate } = useSWRConfig();
  return () =>
    mutate(
      (key) =>
        typeof key === 'string' &&
        (key.startsWith(sourcesPath(client)) || key === sheetPath(client) || key === openPath(client)),
    );
}

/** "2 passages, 340 words". */
export const sizeWords = ({ passages, words }: Pick<Source, 'passages' | 'words'>): string =>
  `${counted(passages, 'passage')}, ${counted(words, 'word')}`;

/** How far a source's reading is. */
export const readingWords = ({ done, total, isStopping }: NonNullable<Source['reading']>): string =>
  isStopping ? 'stopping' : `being read: ${done} of ${total ?? 'its'} ${total === 1 ? 'page' : 'pages'}`;

export const nothingWords = (failure: string): string => `Nothing is known of it: ${failure}.`;
