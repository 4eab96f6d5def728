import type { Attention } from '@dart-loop/contract';
import type { Connection } from '../../platform/db/pool';

/** Something that Today may have to say, of all clients that the account sees. */
export interface Matter {
  /** Builders: owners too. */
  seenBy: 'builders' | 'everybody';
  /** What there is to say at `now` (ms), worst first. */
  of(db: Connection, now: number): Promise<Attention[]>;
}

/** "20 min", "3 h", "2 days". */
export function lasting(ms: number): string {
  const minutes = Math.max(1, Math.floor(ms / 60_000));
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `${hours} h` : `${Math.floor(hours / 24)} days`;
}
