import useSWR from 'swr';
import type { KeptFile } from '@dart-loop/contract/files';
import { counted } from '@dart-loop/core/language/counted';
import { sendFile } from '../session/api';

export const filesPath = (client: string) => `/clients/${client}/files`;

export const KINDS: Record<KeptFile['what'], string> = {
  image: 'picture',
  audio: 'recording',
  video: 'video',
  file: 'document',
};

/** What can be chosen on this device; the server looks at what a file holds. */
export const ACCEPTED = 'image/*,video/mp4,video/3gpp,audio/*,.pdf,.docx,.xlsx,.pptx';

/** How a text names a file. */
export const fileMerge = ({ key }: Pick<KeptFile, 'key'>): string => `{{ file.${key} }}`;

export function useFiles(client: string) {
  const path = filesPath(client);
  const { data, error, mutate } = useSWR<KeptFile[], Error>(path);
  return {
    files: data,
    error,
    mutate,
    add: async (chosen: File, progress: (part: number) => void): Promise<KeptFile> => {
      const name = encodeURIComponent(chosen.name.replace(/\.[a-z0-9]{2,5}$/i, '').slice(0, 80) || 'File');
      const added = await sendFile<KeptFile>(`${path}?name=${name}`, chosen, progress);
      await mutate();
      return added;
    },
    replace: async (file: KeptFile, chosen: File, progress: (part: number) => void): Promise<void> => {
      await sendFile<KeptFile>(`${path}/${file.id}/content`, chosen, progress);
      await mutate();
    },
  };
}

const KB = 1_024;
/** "picture, 640 × 480, 82 KB". */
export function sizeWords({ what, bytes, width, height }: KeptFile): string {
  const size =
    bytes < KB * KB ? `${Math.max(1, Math.round(bytes / KB))} KB` : `${(bytes / KB / KB).toFixed(1)} MB`;
  return [KINDS[what], ...(width && height ? [`${width} × ${height}`] : []), size].join(', ');
}

export const usedWords = ({ usedBy }: KeptFile): string =>
  usedBy.length === 0
    ? 'not used yet'
    : usedBy.length <= 2
      ? `used by ${usedBy.join(' and ')}`
      : `used in ${counted(usedBy.length, 'place')}`;
