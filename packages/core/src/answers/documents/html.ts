import { Parser } from 'htmlparser2';
import { BlockBuilder } from './blockBuilder';
import type { Block } from '../passage';

/** A page of the web, as it is read. */
export interface Page {
  /** As its head names it; empty where it does not. */
  title: string;
  /** ISO 639-1, as the page says; null where it does not. */
  language: string | null;
  blocks: Block[];
  /** Where its links lead, as they stand. */
  links: string[];
  /** The address under which it wants to be known, as it stands. */
  canonical: string | null;
  /** Whether it asks not to be read by programs, or its links not to be followed. */
  noIndex: boolean;
  noFollow: boolean;
}

/** What is not for reading: programs, forms, menus. */
const LEFT_OUT = new Set(
  'script style noscript template svg canvas iframe object nav form button select textarea dialog head math'.split(
    ' ',
  ),
);
/** What begins a part of its own, whatever stands before it. */
const APART = new Set(
  'p div section article main aside header footer address blockquote pre figure figcaption ul ol dl dd dt body details fieldset hr'.split(
    ' ',
  ),
);
const HEADINGS: Readonly<Record<string, number>> = {
  ...Object.fromEntries([1, 2, 3, 4, 5, 6].map((level) => [`h${level}`, level])),
  // A question that opens its answer.
  summary: 6,
};

/** What no reader of the page sees: nobody meant it as an answer. */
function isHidden(attributes: Readonly<Record<string, string>>): boolean {
  return (
    attributes.hidden !== undefined ||
    attributes['aria-hidden'] === 'true' ||
    /(?:display\s*:\s*none|visibility\s*:\s*hidden|font-size\s*:\s*0(?:px|;|$))/i.test(attributes.style ?? '')
  );
}

/**
 * Reads a page of HTML, however broken: headings, paragraphs, lists and tables, in reading order. Programs,
 * styles, menus, forms and what is hidden from readers is left out. Never throws; takes time in step with the
 * length of the text, and no deeper stack for deeper nesting.
 */
export function readHtml(html: string): Page {
  const page: Omit<Page, 'blocks'> = {
    ...{ title: '', language: null, links: [], canonical: null, noIndex: false, noFollow: false },
  };
  const builder = new BlockBuilder();
  /** Elements that are left out, from the outermost on; what they hold counts for nothing. */
  let leftOut = 0;
  let inTitle = false;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (name === 'html')
          page.language ??= /^[a-z]{2}/i.exec(attributes.lang ?? '')?.[0].toLowerCase() ?? null;
        if (name === 'title') inTitle = page.title === '';
        if (name === 'meta' && /^robots$/i.test(attributes.name ?? '')) {
          const asks = (attributes.content ?? '').toLowerCase();
          page.noIndex ||= /\b(?:noindex|none)\b/.test(asks);
          page.noFollow ||= /\b(?:nofollow|none)\b/.test(asks);
        }
        if (name === 'link' && /\bcanonical\b/i.test(attributes.rel ?? ''))
          page.canonical ??= attributes.href ?? null;
        if (name === 'a' && attributes.href && !/\bnofollow\b/i.test(attributes.rel ?? ''))
          page.links.push(attributes.href);
        if (
          leftOut > 0 ||
          (LEFT_OUT.has(name) && name !== 'head') ||
          name === 'head' ||
          isHidden(attributes)
        ) {
          leftOut++;
          return;
        }
        if (HEADINGS[name]) builder.heading(HEADINGS[name]!);
        else if (name === 'br') builder.text(' ');
        else if (name === 'li') builder.item();
        else if (name === 'ul' || name === 'ol') builder.list();
        else if (name === 'dl') builder.list();
        else if (name === 'dt') builder.item();
        else if (name === 'dd') builder.text(': ');
        else if (name === 'table') builder.table();
        else if (name === 'thead') builder.head(true);
        else if (name === 'tr') builder.row();
        else if (name === 'th' || name === 'td') builder.cell(name === 'th');
        else if (APART.has(name)) builder.apart();
        else if (name === 'img' && attributes.alt) builder.text(' ');
      },
      ontext(text) {
        if (inTitle) page.title += text;
        if (leftOut === 0) builder.text(text);
      },
      onclosetag(name) {
        if (name === 'title') inTitle = false;
        if (leftOut > 0) {
          leftOut--;
          return;
        }
        if (HEADINGS[name]) builder.apart();
        else if (name === 'ul' || name === 'ol' || name === 'dl') builder.listOver();
        else if (name === 'table') builder.tableOver();
        else if (name === 'thead') builder.head(false);
        else if (name === 'dt') builder.text(' ');
        else if (APART.has(name) && name !== 'dd') builder.apart();
      },
    },
    { decodeEntities: true, lowerCaseTags: true },
  );
  parser.write(html);
  parser.end();
  return { ...page, title: page.title.replace(/\s+/g, ' ').trim(), blocks: builder.over() };
}
