import Papa from 'papaparse';

/** How a file of cells is parted. */
export interface CsvShape {
  separator: string;
  newline: '\n' | '\r\n' | '\r';
}

/** One row of cells, numbered from 1 as a spreadsheet shows it; `problem` where it is not whole. */
export interface CsvRow {
  number: number;
  cells: string[];
  problem: string | null;
}

const SEPARATORS = [',', ';', '\t', '|', '\u001f'];

/**
 * Guesses from the beginning of a file by what its cells are parted. `ours`: line ends are those that we
 * write.
 */
export function csvShapeOf(beginning: string, ours: boolean): CsvShape {
  const guessed = Papa.parse<string[]>(beginning, {
    preview: 50,
    delimitersToGuess: SEPARATORS,
    skipEmptyLines: 'greedy',
  }).meta.delimiter;
  const newline = ours ? '\r\n' : beginning.includes('\n') ? '\n' : beginning.includes('\r') ? '\r' : '\n';
  return { separator: guessed || ',', newline };
}

interface Parsing {
  parse(text: string, baseIndex: number, ignoreLastRow: boolean): Papa.ParseResult<string[]>;
}

/**
 * Takes the text of a file in pieces of any size, and gives its rows as they are complete. Holds no more than
 * the row it is in.
 */
export class CsvReader {
  readonly #parser: Parsing;
  #rest = '';
  #number = 0;
  #atStart = true;
  constructor(private readonly shape: CsvShape) {
    const Parser = (Papa as unknown as { Parser: new (config: object) => Parsing }).Parser;
    this.#parser = new Parser({
      delimiter: shape.separator,
      newline: shape.newline,
      quoteChar: '"',
      escapeChar: '"',
    });
  }

  /** Characters of the row that is not complete yet. */
  get held(): number {
    return this.#rest.length;
  }

  /** The rows that `text` completes; `last` where nothing follows. */
  push(text: string, last = false): CsvRow[] {
    const whole = this.#rest + (this.#atStart ? text.replace(/^\uFEFF/, '') : text);
    if (text !== '') this.#atStart = false;
    if (whole === '') return [];
    const { data, errors, meta } = this.#parser.parse(whole, 0, !last);
    this.#rest = last ? '' : whole.slice(meta.cursor);
    const wrong = new Map(errors.map((error) => [error.row ?? data.length - 1, error.code]));
    return data.map((cells, at) => {
      const problem = wrong.get(at);
      if (this.shape.newline === '\n' && cells.at(-1)?.endsWith('\r'))
        cells[cells.length - 1] = cells.at(-1)!.slice(0, -1);
      return {
        number: ++this.#number,
        cells,
        problem:
          problem === 'MissingQuotes'
            ? 'a quotation mark is opened and never closed; the file may have been cut off here'
            : problem
              ? 'a quotation mark stands in the middle of a cell'
              : null,
      };
    });
  }
}
