import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { markdownBlocks } from '@dart-loop/core/answers/documents/markdown';
import type { Block } from '@dart-loop/core/answers/passage';
import { DEMO } from './world';

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

function html(block: Block): string {
  if (block.kind === 'heading') return `<h${block.level}>${escaped(block.text)}</h${block.level}>`;
  if (block.kind === 'paragraph') return `<p>${escaped(block.text)}</p>`;
  if (block.kind === 'list') return `<ul>${block.items.map((item) => `<li>${escaped(item)}</li>`).join('')}</ul>`;
  const row = (cells: string[], tag: string) =>
    `<tr>${cells.map((cell) => `<${tag}>${escaped(cell)}</${tag}>`).join('')}</tr>`;
  return `<table>${row(block.head, 'th')}${block.rows.map((cells) => row(cells, 'td')).join('')}</table>`;
}

interface DemoSite {
  host: string;
  pages: Record<string, { text: string; type?: string }>;
}

/** The website of a client of the demo, as the stand-ins serve it: a page for each of its files. */
export function siteOf(slug: string, name: string): DemoSite {
  const host = `${slug.replaceAll('-', '')}.example`;
  const files = readdirSync(join(DEMO, slug, 'site')).sort();
  const paths = files.map((file) => `/${file.replace(/\.md$/, '')}`);
  const page = (title: string, body: string) => ({
    text: `<!doctype html><html lang="en"><head><title>${escaped(title)} · ${escaped(name)}</title></head><body><nav>${[
      '/',
      ...paths,
    ]
      .map((path) => `<a href="${path}">${path.slice(1) || 'Home'}</a>`)
      .join(' ')}</nav><main>${body}</main><footer>This site uses no cookies. ${escaped(name)}</footer></body></html>`,
  });
  const pages = files.map((file, at) => {
    const blocks = markdownBlocks(readFileSync(join(DEMO, slug, 'site', file), 'utf8'));
    const title = blocks[0]?.kind === 'heading' ? blocks[0].text : file;
    return [paths[at]!, page(title, blocks.map(html).join('\n'))] as const;
  });
  return {
    host,
    pages: {
      '/': page('Welcome', `<h1>${escaped(name)}</h1>`),
      ...Object.fromEntries(pages),
      '/robots.txt': { type: 'text/plain', text: `User-agent: *\nDisallow: /staff/\nSitemap: https://${host}/sitemap.xml\n` },
      '/sitemap.xml': {
        type: 'application/xml',
        text: `<urlset>${paths.map((path) => `<url><loc>https://${host}${path}</loc></url>`).join('')}</urlset>`,
      },
    },
  };
}
