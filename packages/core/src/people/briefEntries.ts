import { READERS } from '../language/replies';
import { fileNamed, type EntryType } from './client';

/**
 * What is wrong with an entry of a type, as the end of a sentence; null where nothing is. `country`: ISO
 * 3166-1, for telephone numbers; `now` in ms, `zone` an IANA name.
 */
export function entryProblem(
  type: EntryType,
  said: string,
  where: { country: string; now: number; zone: string },
): string | null {
  if (type === 'text' || said.trim() === '') return null;
  if (type === 'file') return fileNamed(said) === null ? 'is to be one of the client’s files' : null;
  const reader = READERS[type];
  if (reader.read(said.trim(), { ...where, language: 'en', days: 'any' }).ok) return null;
  return `is to be ${reader.words}, such as “${reader.example}”`;
}
