import { Parser } from 'htmlparser2';

/** The addresses of a sitemap, and of those that it leads to. */
export function locationsIn(xml: string): { maps: string[]; places: string[] } {
  const found = { maps: [] as string[], places: [] as string[] };
  let inMap = false;
  let words: string | null = null;
  const parser = new Parser(
    {
      onopentag(name) {
        if (name === 'sitemap') inMap = true;
        if (name === 'loc') words = '';
      },
      ontext(text) {
        if (words !== null) words += text;
      },
      onclosetag(name) {
        if (name === 'sitemap') inMap = false;
        if (name !== 'loc' || words === null) return;
        (inMap ? found.maps : found.places).push(words.trim());
        words = null;
      },
    },
    { xmlMode: true },
  );
  parser.end(xml);
  return found;
}
