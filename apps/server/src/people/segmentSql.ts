import { type Condition } from '@dart-loop/core';
import { tsquery, type TermQuery } from './termQuery';
import { together, Asking, hasRange, type RangesBy } from './segmentQuery';
import { AskedOf, Compiler } from './segmentCompiler';

/**
 * A rule as a condition of SQL over `person_terms t` and `person p`, with its parameters numbered on from
 * `first`. `tables` are those that it names. What a text of the rule holds is only ever a bound parameter.
 */
export interface SegmentSql {
  where: string;
  values: unknown[];
  tables: { terms: boolean; person: boolean };
  /**
   * What of the rule the index answers beside its ranges, where there are any: a query of terms, or '' for
   * nothing.
   */
  besideRanges: string | null;
  /** The whole of it, where that is asked of the terms alone. */
  terms: TermQuery | null;
}

/**
 * Says of a person what {@link isInSegment} of the core says. A condition can be true, false or unknown of
 * somebody; each is compiled to what makes it true and what makes it false, and neither holds where it is
 * unknown.
 */
export function segmentSql(
  rule: Condition,
  asked: AskedOf,
  first = 1,
  ranges: RangesBy = 'index',
): SegmentSql {
  const compiled = new Compiler(asked).both(rule, []).yes;
  const byRows = together(compiled, 'rows', asked.clientId);
  const values: unknown[] = [];
  const tables = { terms: false, person: false };
  const bind = (value: unknown) => {
    values.push(value);
    return `$${first + values.length - 1}`;
  };
  const write = (query: Asking): string => {
    switch (query.kind) {
      case 'always':
        return query.is ? 'true' : 'false';
      case 'terms':
        tables.terms = true;
        return `t.terms @@ ${bind(tsquery(query.query, asked.clientId))}::tsquery`;
      case 'row':
        tables[query.of] = true;
        return query.write(bind);
      default:
        return `(${query.parts.map(write).join(query.kind === 'all' ? ' and ' : ' or ')})`;
    }
  };
  const byIndex = together(compiled, 'index', asked.clientId);
  const where = write(ranges === 'rows' ? byRows : byIndex);
  const ofIndex = (byRows.kind === 'all' ? byRows.parts : [byRows]).find((part) => part.kind === 'terms');
  return {
    where,
    values,
    tables,
    besideRanges: hasRange(compiled) ? (ofIndex ? tsquery(ofIndex.query, asked.clientId) : '') : null,
    terms: byIndex.kind === 'terms' ? byIndex.query : null,
  };
}
