/** What of a site is read: one page, what lies below its path, or all of it. */
export type Reach = 'page' | 'below' | 'site';

/** What says where somebody came from, and not which page. */
const TRACKING = /^(?:utm_.*|gclid|fbclid|mc_.*|_ga|ref|sessionid|phpsessid|sid)$/i;
/** Endings of what is no text. */
const NO_TEXT =
  /\.(?:jpe?g|png|gif|webp|avif|svg|ico|css|js|mjs|json|xml|rss|atom|zip|gz|tar|rar|7z|exe|dmg|apk|mp[34]|m4[av]|mov|avi|webm|ogg|wav|woff2?|ttf|eot|ics|vcf|xlsx?|pptx?|epub)$/i;
const MOST_SEGMENTS = 10;
const MOST_LENGTH = 500;
/** A calendar has a page for each day of all times; a search, one for each word. */
const MOST_PARAMETERS = 3;

/**
 * An address as a page is known by, or null where it leads to none that is read: without its fragment and
 * what only tells where somebody came from. `base`: where the link stands.
 */
export function pageAddress(href: string, base?: string): string | null {
  let url: URL;
  try {
    url = new URL(href.trim(), base);
  } catch {
    return null;
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') return null;
  if (url.username || url.password || NO_TEXT.test(url.pathname)) return null;
  url.hash = '';
  for (const name of [...url.searchParams.keys()]) if (TRACKING.test(name)) url.searchParams.delete(name);
  url.searchParams.sort();
  return url.href.length > MOST_LENGTH ? null : url.href;
}

const hostOf = ({ hostname }: URL): string => hostname.replace(/^www\./, '');

/** Whether a page belongs to what is read from `start` on. */
export function isWithinReach(address: string, start: string, reach: Reach): boolean {
  if (address === start) return true;
  if (reach === 'page') return false;
  const [page, first] = [new URL(address), new URL(start)];
  if (hostOf(page) !== hostOf(first) || page.port !== first.port) return false;
  if (reach === 'site') return true;
  const folder = first.pathname.endsWith('/') ? first.pathname : `${first.pathname}/`;
  return page.pathname === first.pathname || page.pathname.startsWith(folder);
}

/** Whether an address looks as if it went on for ever: deep, full of parameters, the same again and again. */
export function isEndless(address: string): boolean {
  const { pathname, searchParams } = new URL(address);
  const segments = pathname.split('/').filter(Boolean);
  const often = Math.max(0, ...segments.map((each) => segments.filter((other) => other === each).length));
  return segments.length > MOST_SEGMENTS || often > 2 || [...searchParams].length > MOST_PARAMETERS;
}

/** What pages of one kind have in common: a calendar's days, a shop's sizes. */
export const shapeOf = (address: string): string => {
  const { host, pathname, searchParams } = new URL(address);
  const path = pathname.replace(/\d+/g, '#');
  return `${host}${path}?${[...searchParams.keys()].join('&')}`;
};
