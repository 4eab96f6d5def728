import type { Block } from '../passage';

type Table = { head: string[]; rows: string[][]; isHead: boolean; allHeads: boolean };

/**
 * Puts the parts of a document together as they come, in reading order: whatever a format calls them, what is
 * begun ends what stood before it. Tables within tables are read as cells of the outer one, lists within
 * lists as items of the outer one.
 */
export class BlockBuilder {
  readonly #blocks: Block[] = [];
  #words = '';
  #level: number | null = null;
  #lists = 0;
  #items: string[] = [];
  #tables = 0;
  #table: Table | null = null;

  /** More words of what is open. */
  text(words: string): void {
    this.#words += words;
  }

  /** What comes now is a heading, until something else begins. `level`: 1 is the outermost. */
  heading(level: number): void {
    this.apart();
    if (!this.#table && this.#lists === 0) this.#level = level;
  }

  /** What stood here is over. Within a cell or an item it goes on behind a blank. */
  apart(): void {
    if (this.#table || this.#lists > 0) this.#words += ' ';
    else this.#flush();
  }

  list(): void {
    if (this.#table) return this.apart();
    if (this.#lists === 0) this.#flush();
    this.#lists++;
  }

  /** The next item of the list. */
  item(): void {
    if (this.#table) return this.apart();
    if (this.#lists === 0) this.list();
    this.#flushItem();
  }

  listOver(): void {
    if (this.#table || this.#lists === 0) return;
    this.#flushItem();
    if (--this.#lists > 0) return;
    if (this.#items.length > 0) this.#blocks.push({ kind: 'list', items: this.#items });
    this.#items = [];
  }

  table(): void {
    if (this.#tables++ > 0 || this.#lists > 0) return this.apart();
    this.#flush();
    this.#table = { head: [], rows: [], isHead: false, allHeads: false };
  }

  /** Whether the rows that come are the table's head. */
  head(isHead: boolean): void {
    if (!this.#table || this.#tables > 1) return;
    if (this.#table.isHead && !isHead) {
      this.#flushCell();
      this.#rowOver();
    }
    this.#table.isHead = isHead;
  }

  row(): void {
    if (!this.#table || this.#tables > 1) return this.apart();
    this.#flushCell();
    this.#rowOver();
    this.#table.rows.push([]);
    this.#table.allHeads = true;
  }

  /** The next cell of the row; `isHead`: it names what stands beside or below it. */
  cell(isHead: boolean): void {
    if (!this.#table || this.#tables > 1) return this.apart();
    if (this.#table.rows.length === 0) this.row();
    this.#flushCell();
    this.#table.rows.at(-1)!.push('');
    if (!isHead) this.#table.allHeads = false;
  }

  tableOver(): void {
    if (this.#tables === 0 || --this.#tables > 0 || !this.#table) return;
    this.#flushCell();
    this.#rowOver();
    const { head, rows } = this.#table;
    this.#table = null;
    const filled = rows.filter((row) => row.some(Boolean));
    if (head.length === 0 && namesColumns(filled)) head.push(...filled.shift()!);
    if (filled.length > 0) this.#blocks.push({ kind: 'table', head, rows: filled });
  }

  /** All of it, once nothing more comes. */
  over(): Block[] {
    if (this.#table) {
      this.#tables = 1;
      this.tableOver();
    }
    while (this.#lists > 0) this.listOver();
    this.#flush();
    return this.#blocks;
  }

  /** A first row that holds nothing but names is the table's head. */
  #rowOver(): void {
    const table = this.#table!;
    const last = table.rows.at(-1);
    if (!last || table.head.length > 0 || table.rows.length > 1) return;
    if (last.length > 1 && (table.isHead || table.allHeads)) table.head = table.rows.pop()!;
  }

  #taken(): string {
    const words = this.#words.replace(/\s+/g, ' ').trim();
    this.#words = '';
    return words;
  }

  #flushCell(): void {
    const words = this.#taken();
    const row = this.#table?.rows.at(-1);
    if (words && row && row.length > 0) row[row.length - 1] = [row.at(-1), words].filter(Boolean).join(' ');
  }

  #flushItem(): void {
    const words = this.#taken();
    if (words) this.#items.push(words);
  }

  #flush(): void {
    const text = this.#taken();
    if (text)
      this.#blocks.push(
        this.#level === null ? { kind: 'paragraph', text } : { kind: 'heading', level: this.#level, text },
      );
    this.#level = null;
  }
}

/** Whether a first row names the columns, though nothing says so: words above figures. */
const namesColumns = ([first, ...rest]: readonly (readonly string[])[]): boolean =>
  first !== undefined &&
  first.length > 1 &&
  first.every((cell) => cell !== '' && !/\d/.test(cell)) &&
  rest.some((row) => row.some((cell) => /\d/.test(cell)));
