const STARTS_FORMULA = /^'*[=+\-@\t\r]/;
const DEFUSED = /^'+[=+\-@\t\r]/;
/**
 * What looks like a telephone number or a plain number, and no program takes for a formula that does
 * anything.
 */
const HARMLESS = /^[+-]?[\d().\/ -]*\d[\d().\/ -]*$/;

/**
 * A cell that a spreadsheet would take for a formula gets an apostrophe before it (OWASP, CSV injection).
 * Telephone numbers and numbers are left alone. {@link fused} gives back exactly what was there.
 */
export const defused = (cell: string): string =>
  STARTS_FORMULA.test(cell) && !HARMLESS.test(cell) ? `'${cell}` : cell;

/** What {@link defused} was given. */
export const fused = (cell: string): string => (DEFUSED.test(cell) ? cell.slice(1) : cell);
