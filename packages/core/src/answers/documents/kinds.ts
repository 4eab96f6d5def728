/** How the documents that can be read are told from each other, by the ending of their names. */
const KIND_OF_ENDING = {
  md: 'text',
  markdown: 'text',
  txt: 'text',
  csv: 'table',
  htm: 'page',
  html: 'page',
  docx: 'docx',
  pdf: 'pdf',
} as const;
export type DocumentKind = (typeof KIND_OF_ENDING)[keyof typeof KIND_OF_ENDING];

/** The endings of what can be read, as they are said to people. */
export const READABLE = 'PDF, DOCX, HTML, Markdown, plain text and CSV';
export const ENDINGS: readonly string[] = Object.keys(KIND_OF_ENDING).map((ending) => `.${ending}`);

const endingOf = (name: string): string => /\.([a-z]+)$/i.exec(name.trim())?.[1]?.toLowerCase() ?? '';

/** Which kind of document a file is by its name; null where none that can be read. */
export const documentKind = (name: string): DocumentKind | null =>
  KIND_OF_ENDING[endingOf(name) as keyof typeof KIND_OF_ENDING] ?? null;

/** A file's name without its ending, as a document is called that has no heading. */
export const documentTitle = (name: string): string =>
  documentKind(name) ? name.trim().slice(0, -endingOf(name).length - 1) : name.trim();
