import type { MessagePath } from '../conversations/path';

/** Whoever asks is answered within a second, whatever the database does. */
const PATIENCE_MS = 900;

export interface Health {
  isWell: boolean;
  /** In a few words; longer ones in `more`. */
  status:
    | 'well'
    | 'standing still'
    | 'the database cannot be reached'
    | 'the database does not answer in time'
    | 'draining';
  more?: string;
}

/** How the server is: it can reach its database, and what people write is answered. */
export async function health(path: MessagePath): Promise<Health> {
  let impatient: NodeJS.Timeout | undefined;
  const late = new Promise<Health>((resolve) => {
    impatient = setTimeout(
      () => resolve({ isWell: false, status: 'the database does not answer in time' }),
      PATIENCE_MS,
    );
  });
  const looked = path.standsStill().then(
    (more): Health =>
      more === null ? { isWell: true, status: 'well' } : { isWell: false, status: 'standing still', more },
    (): Health => ({ isWell: false, status: 'the database cannot be reached' }),
  );
  return Promise.race([looked, late]).finally(() => clearTimeout(impatient));
}

/**
 * Whether requests can be answered. Where messages stand still, whoever is signed in can still be shown what
 * is wrong.
 */
export async function reaches(look: () => Promise<Health>): Promise<Health> {
  const found = await look();
  return found.status === 'standing still' ? { isWell: true, status: 'well' } : found;
}
