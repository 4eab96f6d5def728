/** Words that stand first in addresses of the app. */
const TAKEN = new Set([
  'inbox',
  'more',
  'account',
  'clients',
  'team',
  'audit',
  'welcome',
  'api',
  'v1',
  'hooks',
  'w',
  'in',
  'healthz',
  'schemas',
  'today',
  'patterns',
  'meter',
  'files',
]);

/**
 * How a client is called in addresses: the letters and digits of its name, small and without accents, with
 * hyphens between; at most 60 characters. `tries`: 1 for the first wish, then with that number behind it.
 */
export function slugFor(name: string, tries: number): string {
  const plain =
    name
      .normalize('NFKD')
      .replace(/[\u0300-\u036f’']/g, '')
      .toLowerCase()
      .replace(/ß/g, 'ss')
      .replace(/[^a-z0-9]+/g, '-')
      .slice(0, 60)
      .replace(/^-+|-+$/g, '') || 'client';
  const isTaken = tries > 1 || TAKEN.has(plain);
  return isTaken ? `${plain}-${Math.max(2, tries)}` : plain;
}
