import {
  type ClientFacts,
  type Condition,
  localTime,
  fold,
  durationMs,
  comparable,
  addDays,
  isDate,
  isTimeOfDay,
  moment,
} from '@dart-loop/core';
import { rangeOf } from './range';
import { Both, all, any, UNKNOWN, Query, EVERYBODY, NEVER } from './segmentQuery';
import { type TermQuery, allOf, anyOf } from './termQuery';
import { TERM, type Way, inOrder } from './terms';

/** What a rule is asked with: whose people, when, and what names stand for. */

export interface AskedOf {
  clientId: number;
  now: number;
  client: ClientFacts;
  segments: Readonly<Record<string, Condition>>;
  loopIds: Readonly<Record<string, string>>;
}
export class Compiler {
  readonly #today: string;
  constructor(private readonly asked: AskedOf) {
    this.#today = localTime(asked.now, asked.client.timeZone).date;
  }

  both(condition: Condition, within: readonly string[]): Both {
    if (condition.all ?? condition.any) {
      const parts = (condition.all ?? condition.any)!.map((each) => this.both(each, within));
      const yes = parts.map((each) => each.yes);
      const no = parts.map((each) => each.no);
      return condition.all ? { yes: all(...yes), no: any(...no) } : { yes: any(...yes), no: all(...no) };
    }
    if (condition.not) {
      const { yes, no } = this.both(condition.not, within);
      return { yes: no, no: yes };
    }
    const found = this.#leaf(condition, within);
    return condition.is === false && !condition.field ? { yes: found.no, no: found.yes } : found;
  }

  #leaf(condition: Condition, within: readonly string[]): Both {
    const { now } = this.asked;
    if (condition.segment !== undefined) {
      const name = fold(condition.segment);
      const rule = this.asked.segments[name];
      if (!rule || within.includes(name)) return UNKNOWN;
      return this.#sure(this.both(rule, [...within, name]).yes);
    }
    if (condition.tag !== undefined) return this.#term(TERM.tag(condition.tag));
    if (condition.list !== undefined) return this.#term(TERM.list(condition.list));
    if (condition.reach !== undefined) return this.#term(TERM.reach(condition.reach));
    if (condition.optedIn !== undefined) return this.#term(TERM.optedIn(condition.optedIn));
    if (condition.optedOut !== undefined) return this.#term(TERM.optedOut(condition.optedOut));
    if (condition.source !== undefined) return this.#term(TERM.source(condition.source));
    if (condition.language !== undefined) return this.#language(condition.language);
    if (condition.seen !== undefined) return this.#since('p.last_seen_at', now - durationMs(condition.seen));
    if (condition.met !== undefined) return this.#since('p.created_at', now - durationMs(condition.met));
    const through = this.#throughLoop(condition);
    if (through) return this.#sure(through);
    return condition.field === undefined ? UNKNOWN : this.#field(condition.field, condition);
  }

  /** Both ways of what is never unknown. */
  #sure(yes: Query): Both {
    return { yes, no: this.#opposite(yes) };
  }
  #opposite(query: Query): Query {
    switch (query.kind) {
      case 'always':
        return { kind: 'always', is: !query.is };
      case 'terms':
        return this.#without(query.query);
      case 'row':
        return { ...query, write: (bind) => `not ${query.write(bind)}` };
      case 'range':
        return {
          kind: 'range',
          terms: this.#without(query.terms).query,
          ofRow: this.#without(query.ofRow).query,
        };
      default:
        return {
          kind: query.kind === 'all' ? 'any' : 'all',
          parts: query.parts.map((part) => this.#opposite(part)),
        };
    }
  }

  #term(term: string): Both {
    return { yes: this.#has(term), no: this.#without(this.#lexeme(term)) };
  }
  #has(term: string, begins = false): Query {
    return { kind: 'terms', query: this.#lexeme(term, begins) };
  }
  /** Everybody but whom a query of terms finds; the index needs something to begin with. */
  #without(query: TermQuery, among: TermQuery = EVERYBODY): Extract<Query, { kind: 'terms' }> {
    return {
      kind: 'terms',
      query: allOf(among, { not: query }),
      ...(among === EVERYBODY && { bare: { not: query } }),
    };
  }
  #lexeme(term: string, begins = false): TermQuery {
    return { term, ...(begins && { begins }) };
  }
  #anyOf(lexemes: TermQuery[]): Query {
    return lexemes.length === 0 ? NEVER : { kind: 'terms', query: anyOf(...lexemes) };
  }

  #since(column: string, at: number): Both {
    return this.#sure({
      kind: 'row',
      of: 'person',
      write: (bind) => `(${column} > ${bind(new Date(at))}::timestamptz)`,
    });
  }

  /**
   * As `knownLanguageOf` of the core: a field of theirs, or what the channel says where the client speaks it.
   * Of whom neither is known, nothing holds.
   */
  #language(language: string): Both {
    const { languages } = this.asked.client;
    const silent = this.#without(this.#lexeme(TERM.hasOwnLanguage));
    const own = this.#has(TERM.ownLanguage(language));
    const said = (which: readonly string[]) => {
      const spoken = this.#anyOf(which.map((each) => this.#lexeme(TERM.saidLanguage(each))));
      return spoken === NEVER ? NEVER : all(spoken, silent);
    };
    const others = languages.filter((each) => each !== language);
    const otherOwn = all(
      this.#has(TERM.hasOwnLanguage),
      this.#without(this.#lexeme(TERM.ownLanguage(language))),
    );
    return {
      yes: any(own, said(languages.includes(language) ? [language] : [])),
      no: any(otherOwn, said(others)),
    };
  }

  #throughLoop(condition: Condition): Query | null {
    const { entered, finished, underWay, left, heard, within } = condition;
    const name = entered ?? finished ?? underWay?.loop ?? left?.loop ?? heard?.loop;
    if (name === undefined) return null;
    const id = this.asked.loopIds[fold(name)];
    if (id === undefined) return NEVER;
    const since = within === undefined ? null : this.asked.now - durationMs(within);
    const passed = (write: (passage: string, bind: (value: unknown) => string) => string): Query =>
      all(this.#has(TERM.entered(id)), {
        kind: 'row',
        of: 'person',
        write: (bind) => `coalesce(${write(`p.history -> ${bind(id)}::text`, bind)}, false)`,
      });
    if (entered !== undefined)
      return since === null
        ? this.#has(TERM.entered(id))
        : passed((passage, bind) => `(${passage} ->> 'started')::float8 > ${bind(since)}`);
    if (finished !== undefined)
      return since === null
        ? this.#has(TERM.finished(id))
        : passed((passage, bind) => `(${passage} ->> 'finished')::float8 > ${bind(since)}`);
    if (heard) return passed((passage, bind) => `${passage} -> 'cues' ? ${bind(heard.cue)}::text`);
    const { scene } = (underWay ?? left)!;
    const there = (passage: string, bind: (value: unknown) => string) =>
      scene === undefined ? '' : ` and ${passage} #>> '{stands,scene}' = ${bind(scene)}`;
    if (underWay)
      return passed((passage, bind) => `${passage} #>> '{stands,underWay}' = 'true'${there(passage, bind)}`);
    return passed(
      (passage, bind) =>
        `not coalesce((${passage} ->> 'finished')::float8 >= (${passage} ->> 'started')::float8, false) and ${passage} #>> '{stands,underWay}' = 'false'${there(passage, bind)}`,
    );
  }

  #field(field: string, condition: Condition): Both {
    const { is, value: operand } = condition;
    const known = (way: Way) => this.#lexeme(TERM.known(field, way));
    const ways: Way[] = ['t', 's', 'n', 'd', 'h', 'b'];
    const ofAnyType = this.#anyOf(ways.map(known)) as Extract<Query, { kind: 'terms' }>;
    if (is === 'known') return { yes: ofAnyType, no: this.#without(ofAnyType.query) };
    if (is === 'unknown') return { yes: this.#without(ofAnyType.query), no: ofAnyType };
    if (is === 'changed in the last')
      return this.#sure({
        kind: 'row',
        of: 'person',
        write: (bind) =>
          `coalesce((p.changed ->> ${bind(field)}::text)::float8 > ${bind(this.asked.now - durationMs(String(operand)))}, false)`,
      });
    if (operand === undefined) return UNKNOWN;
    const each = ways.map((way) => this.#ofWay(field, way, condition));
    return { yes: any(...each.map(({ yes }) => yes)), no: any(...each.map(({ no }) => no)) };
  }

  /** What a comparison says of values that are compared in one way; unknown for all others. */
  #ofWay(field: string, way: Way, { is, value: operand, to }: Condition): Both {
    const known = this.#lexeme(TERM.known(field, way));
    const value = (written: string, as: Way = way, begins = false) =>
      this.#lexeme(TERM.value(field, as, written), begins);
    const among = (lexemes: TermQuery[]): Both => {
      const yes = this.#anyOf(lexemes);
      return {
        yes,
        no: yes.kind === 'terms' ? this.#without(yes.query, known) : { kind: 'terms', query: known },
      };
    };
    const turned = ({ yes, no }: Both): Both => ({ yes: no, no: yes });
    const range = (low: string, high: string, { open = false } = {}): Both => {
      const found = rangeOf(low, high, (beginning) => value(beginning, way, beginning.length < low.length));
      if (!found) return among([]);
      const lessLow = (words: TermQuery) => (open ? allOf(words, { not: value(low) }) : words);
      const terms = lessLow(
        anyOf(...found.beginnings.map((each) => value(each, way, each.length < low.length))),
      );
      const ofRow = lessLow(found.expression);
      return {
        yes: { kind: 'range', terms, ofRow },
        no: {
          kind: 'range',
          terms: this.#without(terms, known).query,
          ofRow: this.#without(ofRow, known).query,
        },
      };
    };
    switch (way) {
      case 't': {
        const folded = `=${comparable('text', String(operand))}`;
        const digits = `#${comparable('phone', String(operand))}`;
        if (is === 'equal') return among([value(folded), value(digits)]);
        if (is === 'not equal') return turned(among([value(folded), value(digits)]));
        if (is === 'starts with') return among([value(folded, way, true), value(digits, way, true)]);
        return is === 'contains'
          ? this.#like(field, known, [
              `${folded[0]}%${like(folded.slice(1))}%`,
              `${digits[0]}%${like(digits.slice(1))}%`,
            ])
          : UNKNOWN;
      }
      case 's': {
        const folded = comparable('text', String(operand));
        if (is === 'equal') return among([value(comparable('several of', String(operand)), '1')]);
        if (is === 'contains') return among([value(folded)]);
        if (is === 'not equal') return turned(among([value(folded)]));
        return is === 'starts with' ? this.#like(field, known, [`=${like(folded)}%`]) : UNKNOWN;
      }
      case 'b': {
        const wanted =
          operand === true || operand === 'yes' ? 'y' : operand === false || operand === 'no' ? 'n' : null;
        if (wanted === null || (is !== 'equal' && is !== 'not equal')) return UNKNOWN;
        return is === 'equal' ? among([value(wanted)]) : turned(among([value(wanted)]));
      }
      case 'n': {
        const number = Number(operand);
        if (Number.isNaN(number)) return UNKNOWN;
        return this.#inOrder(
          is,
          inOrder(number),
          Number.isNaN(Number(to)) ? null : inOrder(Number(to)),
          NUMBERS,
          range,
          (of) => among([value(of)]),
        );
      }
      case 'd':
      case 'h': {
        if (way === 'd' && is === 'in the next')
          return range(this.#today, addDays(this.#today, daysOf(operand)));
        if (way === 'd' && is === 'in the last')
          return range(addDays(this.#today, -daysOf(operand)), this.#today);
        const fits = way === 'd' ? isDate : isTimeOfDay;
        const at = moment(String(operand), this.#today);
        const until = moment(String(to), this.#today);
        if (!fits(at) || (is === 'between' && !fits(until))) return UNKNOWN;
        const as = is === 'before' ? 'below' : is === 'after' ? 'above' : is;
        return this.#inOrder(as, at, until, way === 'd' ? DAYS : HOURS, range, (of) => among([value(of)]));
      }
      case '1':
        return UNKNOWN;
    }
  }

  #inOrder(
    is: Condition['is'],
    at: string,
    to: string | null,
    { lowest, highest }: Ordered,
    range: (low: string, high: string, how?: { open: boolean }) => Both,
    exactly: (written: string) => Both,
  ): Both {
    const turned = ({ yes, no }: Both): Both => ({ yes: no, no: yes });
    switch (is) {
      case 'equal':
        return exactly(at);
      case 'not equal':
        return turned(exactly(at));
      case 'at least':
        return range(at, highest);
      case 'below':
        return turned(range(at, highest));
      case 'above':
        return range(at, highest, { open: true });
      case 'at most':
        return turned(range(at, highest, { open: true }));
      case 'between':
        return to === null ? range(highest, lowest) : range(at, to);
      default:
        return UNKNOWN;
    }
  }

  #like(field: string, known: TermQuery, patterns: string[]): Both {
    const found: Query = {
      kind: 'row',
      of: 'terms',
      write: (bind) =>
        `coalesce(t.texts ->> ${bind(field)}::text like any (${bind(patterns)}::text[]), false)`,
    };
    const ofWay: Query = { kind: 'terms', query: known };
    return { yes: all(ofWay, found), no: all(ofWay, this.#opposite(found)) };
  }
}
interface Ordered {
  lowest: string;
  highest: string;
}
const NUMBERS: Ordered = { lowest: '0'.repeat(16), highest: 'f'.repeat(16) };
const DAYS: Ordered = { lowest: '0000-00-00', highest: '9999-99-99' };
const HOURS: Ordered = { lowest: '00:00', highest: '99:99' };
const daysOf = (operand: Condition['value']) => Math.floor(durationMs(String(operand)) / 86400000);
/** A text within a pattern of `like`, as it is. */
export const like = (text: string): string => text.replace(/[\\%_]/g, '\\$&');
