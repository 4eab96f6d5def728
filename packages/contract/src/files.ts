import { z } from 'zod';

/** The files of a client: pictures, recordings, videos and documents that its texts send. */

export const FileName = z.string().trim().min(1, 'give it a name').max(80, 'is at most 80 characters');
export const AddFile = z.object({ name: FileName });
export const RenameFile = z.object({ name: FileName });

export interface KeptFile {
  id: string;
  /** How texts name it: `{{ file.timetable }}`. It stays when the file is renamed or replaced. */
  key: string;
  name: string;
  what: 'image' | 'file' | 'video' | 'audio';
  /** Media type, such as image/jpeg. */
  type: string;
  bytes: number;
  /** Of a picture, in pixels. */
  width: number | null;
  height: number | null;
  /** Where platforms and everybody who has it fetch it. */
  address: string;
  madeAt: string;
  madeBy: string | null;
  /** The loops whose drafts or live versions name it. */
  usedBy: string[];
}
