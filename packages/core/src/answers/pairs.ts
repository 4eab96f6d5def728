import Papa from 'papaparse';

/** A question with its answer, and other ways of asking it. */
export interface PairLine {
  /** Of the file, counted from 1. */
  line: number;
  question: string;
  answer: string;
  wordings: string[];
}

/**
 * Reads pairs of question and answer from CSV with the columns question, answer and, where there are any,
 * wordings (parted by |); a line without either, or a question that was there before, is told in `problems`.
 */
export function readPairs(csv: string): { pairs: PairLine[]; problems: string[] } {
  const { data, meta } = Papa.parse<Record<string, string>>(csv.replace(/^\uFEFF/, '').trim(), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  if (!meta.fields?.includes('question') || !meta.fields.includes('answer'))
    return {
      pairs: [],
      problems: ['The first line must name the columns: question, answer and, if you like, wordings.'],
    };
  const seen = new Set<string>();
  const problems: string[] = [];
  const pairs = data.flatMap((cells, at): PairLine[] => {
    const line = at + 2;
    const question = (cells.question ?? '').trim();
    const answer = (cells.answer ?? '').trim();
    const key = question.toLowerCase();
    const missing = question === '' ? 'a question' : answer === '' ? 'an answer' : null;
    if (missing) problems.push(`Line ${line}: ${missing} is missing.`);
    else if (seen.has(key)) problems.push(`Line ${line}: “${question}” stands there twice.`);
    if (missing || seen.has(key)) return [];
    seen.add(key);
    const wordings = (cells.wordings ?? '')
      .split('|')
      .map((each) => each.trim())
      .filter(Boolean);
    return [{ line, question, answer, wordings }];
  });
  return { pairs, problems };
}
