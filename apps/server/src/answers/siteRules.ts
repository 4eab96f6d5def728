import robotsParser from 'robots-parser';
import { pageAddress, type Reach } from '@dart-loop/core/answers/site/addresses';
import { locationsIn } from '@dart-loop/core/answers/site/sitemap';
import type { Outside } from '../platform/outside';
import { AGENT, fetchPage } from './fetching';

/** Pages of one site. */
export const MOST_PAGES = 2_000;
const MOST_SITEMAPS = 5;
const MOST_PAUSE_MS = 5_000;

/** Where a site is read from, and how far. */
export interface Site {
  name: string;
  address: string;
  kind: Reach;
}

interface Rules {
  allows: (address: string) => boolean;
  pauseMs: number;
  /** Pages that the site names by itself. */
  sitemap: string[];
}

/** What a site asks of programs (RFC 9309), and the pages that it names. */
export async function rulesOf(outside: Outside, { address, kind }: Site): Promise<Rules> {
  const { origin } = new URL(address);
  const at = `${origin}/robots.txt`;
  const fetched = await fetchPage(outside, at);
  const robots = robotsParser(
    at,
    fetched.kind === 'page' ? fetched.bytes.toString('utf8').slice(0, 500_000) : '',
  );
  const sitemap =
    kind === 'page' ? [] : await sitemapOf(outside, [...robots.getSitemaps(), `${origin}/sitemap.xml`]);
  return {
    allows: (each) => robots.isAllowed(each, AGENT) !== false,
    pauseMs: Math.min(MOST_PAUSE_MS, (robots.getCrawlDelay(AGENT) ?? 0) * 1_000),
    sitemap: sitemap.flatMap((each) => pageAddress(each) ?? []),
  };
}

async function sitemapOf(outside: Outside, addresses: readonly string[]): Promise<string[]> {
  const pages: string[] = [];
  const left = [...new Set(addresses)];
  for (let read = 0; read < MOST_SITEMAPS && left.length > 0; read++) {
    const fetched = await fetchPage(outside, left.shift()!);
    if (fetched.kind !== 'page') continue;
    const { maps, places } = locationsIn(fetched.bytes.toString('utf8'));
    left.push(...maps);
    pages.push(...places);
  }
  return pages.slice(0, MOST_PAGES);
}
