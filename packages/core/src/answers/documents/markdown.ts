import MarkdownIt from 'markdown-it';
import type { Block } from '../passage';

const reader = new MarkdownIt({ html: false, linkify: false });

type Token = ReturnType<typeof reader.parse>[number];

/** The words of a line without its marks; a link is its words. */
const wordsOf = (inline: Token): string =>
  (inline.children ?? [])
    .map((each) => (each.type === 'softbreak' || each.type === 'hardbreak' ? ' ' : each.content))
    .join('')
    .trim();

/** The parts of a text in Markdown, or of a plain one. Pictures and code that is set apart say nothing. */
export function markdownBlocks(text: string): Block[] {
  const blocks: Block[] = [];
  let list: string[] | null = null;
  let depth = 0;
  let table: Extract<Block, { kind: 'table' }> | null = null;
  let isHead = false;
  let level: number | null = null;
  for (const token of reader.parse(text, {}))
    switch (token.type) {
      case 'heading_open':
        level = Number(token.tag.slice(1));
        break;
      case 'heading_close':
        level = null;
        break;
      case 'bullet_list_open':
      case 'ordered_list_open':
        if (depth++ === 0) list = [];
        break;
      case 'bullet_list_close':
      case 'ordered_list_close':
        if (--depth === 0 && list) {
          blocks.push({ kind: 'list', items: list });
          list = null;
        }
        break;
      case 'table_open':
        table = { kind: 'table', head: [], rows: [] };
        break;
      case 'table_close':
        if (table) blocks.push(table);
        table = null;
        break;
      case 'thead_open':
        isHead = true;
        break;
      case 'thead_close':
        isHead = false;
        break;
      case 'tr_open':
        if (!isHead) table?.rows.push([]);
        break;
      case 'inline': {
        const words = wordsOf(token);
        if (level !== null) blocks.push({ kind: 'heading', level, text: words });
        else if (table) (isHead ? table.head : table.rows.at(-1)!).push(words);
        else if (list) list.push(words);
        else if (words) blocks.push({ kind: 'paragraph', text: words });
        break;
      }
    }
  return blocks;
}
