import type { DestinationRow } from '@dart-loop/contract';
import { counted } from '@dart-loop/core/language/counted';
import { whenWords } from '../../ui/time';

/** How a destination is, as a shape and a sentence. */
export function destinationState(row: DestinationRow): {
  tone: 'failing' | 'warning' | 'quiet' | 'live';
  words: string;
} {
  const waits = row.waiting > 0 ? `, ${counted(row.waiting, 'delivery waits', 'deliveries wait')}` : '';
  if (row.state === 'off') return { tone: 'quiet', words: 'Off: no changes are recorded or sent' };
  if (row.state === 'paused')
    return { tone: 'warning', words: `Paused: changes are recorded and nothing is sent${waits}` };
  if (row.failingSince)
    return {
      tone: 'failing',
      words: `Failing since ${whenWords(row.failingSince).replace(/^on /, '')}: ${row.failure}${waits}`,
    };
  return {
    tone: 'live',
    words: `On, ${row.lastOkAt ? `last taken ${whenWords(row.lastOkAt)}` : 'nothing has been sent yet'}${waits}`,
  };
}

export const shelfWords = (count: number) => counted(count, 'failed delivery', 'failed deliveries');

/** What it is and where it goes. */
export const whereWords = ({ what, host }: Pick<DestinationRow, 'what' | 'host'>): string =>
  `${what}${host === null ? ' in a folder of the server' : `, ${host}`}`;
