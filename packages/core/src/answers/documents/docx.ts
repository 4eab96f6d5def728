import { strFromU8, unzipSync } from 'fflate';
import { Parser } from 'htmlparser2';
import type { Block } from '../passage';
import { BlockBuilder } from './blockBuilder';
import { Unreadable } from './unreadable';

const DOCUMENT = 'word/document.xml';
const STYLES = 'word/styles.xml';
/** Bytes of one part, written out: some ten thousand pages. */
const MOST_BYTES = 30_000_000;

/** The levels of headings by the names of their styles, which differ between languages of the program. */
function headingLevels(styles: string): Map<string, number> {
  const levels = new Map<string, number>();
  let open = '';
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (name === 'w:style') open = attributes['w:styleId'] ?? '';
        if (name !== 'w:name' || !open) return;
        const said = (attributes['w:val'] ?? '').toLowerCase();
        const level = said === 'title' ? 1 : Number(/^heading (\d)$/.exec(said)?.[1] ?? 0);
        if (level > 0) levels.set(open, level);
      },
    },
    { xmlMode: true },
  );
  parser.end(styles);
  return levels;
}

/**
 * Reads a document of a word processor (DOCX, Office Open XML): headings by their styles, paragraphs, lists,
 * tables; what was deleted under review is left out. Throws {@link Unreadable}.
 */
export function docxBlocks(bytes: Uint8Array): Block[] {
  let parts: Record<string, Uint8Array>;
  let isTooLong = false;
  try {
    parts = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (name !== DOCUMENT && name !== STYLES) return false;
        isTooLong ||= originalSize > MOST_BYTES;
        return originalSize <= MOST_BYTES;
      },
    });
  } catch {
    throw new Unreadable('It is no DOCX document, or a damaged one.');
  }
  if (isTooLong) throw new Unreadable(`Written out it has more than ${MOST_BYTES / 1_000_000} MB.`);
  const document = parts[DOCUMENT];
  if (!document) throw new Unreadable('It is no DOCX document: there is no text in it.');
  const levels = headingLevels(parts[STYLES] ? strFromU8(parts[STYLES]) : '');
  const builder = new BlockBuilder();
  // A text box stands within the paragraph that it hangs on.
  const open: { words: string; level: number; isItem: boolean }[] = [];
  const put = ({ words, level, isItem }: (typeof open)[number]) => {
    if (isItem) builder.item();
    else builder.listOver();
    if (level > 0) builder.heading(level);
    builder.text(words);
    if (!isItem) builder.apart();
  };
  let isText = false;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        const paragraph = open.at(-1);
        if (name === 'w:p') open.push({ words: '', level: 0, isItem: false });
        else if (name === 'w:t') isText = true;
        else if (name === 'w:tbl') {
          builder.listOver();
          builder.table();
        } else if (name === 'w:tblHeader') builder.head(true);
        else if (name === 'w:tr') {
          builder.row();
          builder.head(false);
        } else if (name === 'w:tc') builder.cell(false);
        else if (!paragraph) return;
        else if (name === 'w:tab' || name === 'w:br' || name === 'w:cr') paragraph.words += ' ';
        else if (name === 'w:pStyle') paragraph.level = levels.get(attributes['w:val'] ?? '') ?? 0;
        else if (name === 'w:numPr') paragraph.isItem = true;
      },
      ontext(text) {
        if (isText && open.length > 0) open.at(-1)!.words += text;
      },
      onclosetag(name) {
        if (name === 'w:t') isText = false;
        else if (name === 'w:p') {
          const paragraph = open.pop();
          if (paragraph?.words.trim()) put(paragraph);
        } else if (name === 'w:tbl') builder.tableOver();
      },
    },
    { xmlMode: true },
  );
  parser.end(strFromU8(document));
  return builder.over();
}
