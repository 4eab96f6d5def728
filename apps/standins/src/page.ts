/** A value as it stands in a page. */
export const escaped = (value: unknown): string =>
  (value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value))
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');

/** A plain page with one table; `rows` are escaped already, and so is the form above them. */
export function pageOf(title: string, words: string, columns: string[], rows: string[][], form = ''): string {
  const row = (cells: string[], tag: 'th' | 'td') =>
    `<tr>${cells.map((cell) => `<${tag}>${cell}</${tag}>`).join('')}</tr>`;
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title}</title>
<style>body{font:16px/1.4 sans-serif;margin:24px}table{border-collapse:collapse}td,th{border:1px solid #999;padding:4px 8px;text-align:left}</style>
<h1>${title}</h1><p>${words}</p>${form}<table>${row(columns.map(escaped), 'th')}${rows.map((cells) => row(cells, 'td')).join('')}</table></html>`;
}
