import { Liquid, type Template } from 'liquidjs';
import { localeOf } from './locale';
import { DateTime } from 'luxon';
import type { ClientFacts, LineFacts } from '../people/client';
import { saidBrief, saidEntry } from '../people/client';
import { FIELD, GROUPS, partsOf, type TextPart } from './mergeParts';
import { amountWords, currencyOf } from '../people/currency';
import { valueWords, type PersonFacts, type Value } from '../people/person';

export interface MergeProblem {
  /** Offset of the faulty merge field in the text. */
  at: number;
  reason: string;
}

export interface MergeWorld {
  client: ClientFacts;
  line: LineFacts;
  person: PersonFacts;
  /** What was answered in this run: by field, and by the id of the step for choices. */
  answers: Record<string, Value>;
  language: string;
  now: number;
  zone: string;
}

/** A merged text is cut here, in characters. */
const MOST = 8_000;
const TAGS = ['if', 'elsif', 'else', 'unless', 'case', 'when'];

/** Filters that a text may use; all others are refused. */
const OWN_FILTERS = {
  /**
   * "long" Wednesday 25 November 2026, "day" 25 November, "short" 25 Nov 2026, "weekday" Wednesday, or a
   * pattern of Unicode TR 35 such as "d MMM".
   */
  date(this: { context: { getSync(path: string[]): unknown } }, value: unknown, form: unknown) {
    const language = String(this.context.getSync(['language']) ?? 'en');
    const at = DateTime.fromISO(String(value ?? ''), { zone: 'utc' }).setLocale(localeOf(language));
    if (!at.isValid) return value;
    const forms: Record<string, string> = {
      long: 'cccc d LLLL yyyy',
      day: 'd LLLL',
      short: 'd LLL yyyy',
      weekday: 'cccc',
      time: 'HH:mm',
    };
    const pattern = String(form ?? 'long');
    return at.toFormat(forms[pattern] ?? pattern);
  },
  /** With thousands parted and so many decimals: 1,250.50. */
  number(this: { context: { getSync(path: string[]): unknown } }, value: unknown, decimals: unknown) {
    const figure = Number(value);
    if (value === null || value === undefined || value === '' || Number.isNaN(figure)) return value;
    const language = String(this.context.getSync(['language']) ?? 'en');
    const places = decimals === undefined ? undefined : Math.max(0, Math.min(6, Number(decimals) || 0));
    return new Intl.NumberFormat(localeOf(language), {
      minimumFractionDigits: places,
      maximumFractionDigits: places ?? 6,
    }).format(figure);
  },
  /** An amount in the client's currency, or in the one that is named: £12.50. */
  money(this: { context: { getSync(path: string[]): unknown } }, value: unknown, currency: unknown) {
    const amount = Number(value);
    if (value === null || value === undefined || value === '' || Number.isNaN(amount)) return value;
    const named = typeof currency === 'string' && /^[A-Z]{3}$/.test(currency) ? currency : null;
    const own = this.context.getSync(['client', 'currency']);
    return amountWords(amount, named ?? String(own), String(this.context.getSync(['language']) ?? 'en'));
  },
  /** The first of several names. */
  first_name: (value: unknown) =>
    String(value ?? '')
      .trim()
      .split(/\s+/)[0] ?? '',
  /** Each word with a capital: "mira von tal" to "Mira Von Tal". */
  title: (value: unknown) =>
    String(value ?? '')
      .toLowerCase()
      .replace(/(^|[\s'’-])(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase()),
};
const KEPT_FILTERS = [
  'default',
  'upcase',
  'downcase',
  'capitalize',
  'strip',
  'truncate',
  'append',
  'prepend',
  'plus',
  'minus',
  'times',
  'divided_by',
  'round',
  'size',
  'join',
];

const liquid = makeEngine();
function makeEngine(): Liquid {
  const engine = new Liquid({
    templates: {},
    strictFilters: true,
    strictVariables: false,
    ownPropertyOnly: true,
    // Several values read as a list, with or without filters.
    outputEscape: ((value: unknown) => (Array.isArray(value) ? value.join(', ') : value)) as (
      value: unknown,
    ) => string,
    parseLimit: 20_000,
    renderLimit: 200,
    memoryLimit: 100_000,
  });
  for (const name of Object.keys(engine.tags)) if (!TAGS.includes(name)) delete engine.tags[name];
  for (const name of Object.keys(engine.filters))
    if (!KEPT_FILTERS.includes(name)) delete engine.filters[name];
  for (const [name, filter] of Object.entries(OWN_FILTERS)) engine.registerFilter(name, filter as never);
  return engine;
}

/**
 * Takes a text apart into words and merge fields such as `{{ person.first_name | default: "there" }}`, and
 * says what is wrong with its Liquid, with the offset. Tags such as `{% if %}` stay among the words.
 */
export const parseMerge = (text: string): { parts: TextPart[]; problems: MergeProblem[] } => ({
  parts: partsOf(text),
  problems: mergeProblems(text),
});

function mergeProblems(text: string): MergeProblem[] {
  if (!/\{\{|\}\}|\{%|%\}/.test(text)) return [];
  const stray = /\}\}/.exec(text.replace(FIELD, (whole) => ' '.repeat(whole.length)));
  if (stray)
    return [
      {
        at: stray.index,
        reason: 'a merge field is opened with {{ and closed with }}; one of the two is missing',
      },
    ];
  try {
    const templates = liquid.parse(text);
    const fields = [...text.matchAll(/\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}/g)];
    const problems = new Map<number, MergeProblem>();
    for (const segments of liquid.globalVariableSegmentsSync(templates)) {
      const [group, key] = segments.map(String);
      const field = fields.find(([source]) => source.includes(segments.join('.'))) ?? fields[0];
      const at = field?.index ?? 0;
      if (problems.has(at)) continue;
      if (!GROUPS.includes(group!))
        problems.set(at, {
          at,
          reason: `"${field?.[0]}" is not a merge field: write {{ person.first_name | default: "there" }}, with person, brief, client, file, line or answers before the dot`,
        });
      else if (group !== 'today' && key === undefined)
        problems.set(at, {
          at,
          reason: `"${field?.[0]}" is not a merge field: "${group}" needs a dot and a name after it`,
        });
    }
    return [...problems.values()];
  } catch (error) {
    const token = (error as { token?: { begin?: number } }).token;
    const words = (error as Error).message.replace(/, line:.*$/s, '');
    const known = /^undefined filter: (.*)/.exec(words);
    const tag = /^tag "(.*)" not found/.exec(words);
    const reason = known
      ? `there is no filter “${known[1]}”; the filters are ${[...KEPT_FILTERS, ...Object.keys(OWN_FILTERS)].join(', ')}`
      : tag
        ? `“${tag[1]}” is not allowed in a text; only ${TAGS.join(', ')} are`
        : /not closed/.test(words)
          ? 'a merge field is opened with {{ and closed with }}; one of the two is missing'
          : `this cannot be read as a merge field: ${words}`;
    return [{ at: token?.begin ?? 0, reason }];
  }
}

const currencyIn = ({ client }: MergeWorld) => client.currency ?? currencyOf(client.country);

/** Every merge field's value is looked up here, so that the script's picker and the engine offer the same. */
function lookUp(path: string, world: MergeWorld): Value | string | null {
  const [group, key] = path.split('.') as [string, string];
  const own = <T>(record: Record<string, T>) => (Object.hasOwn(record, key) ? record[key]! : null);
  if (group === 'client')
    return key === 'name'
      ? world.client.name
      : key === 'country'
        ? world.client.country
        : key === 'currency'
          ? currencyIn(world)
          : null;
  if (group === 'line')
    return key === 'name' ? world.line.name : key === 'channel' ? world.line.channel : null;
  if (group === 'brief') return saidEntry(world.client, key) || null;
  if (group === 'file') return own(world.client.files ?? {});
  if (group === 'answers') return own(world.answers);
  if (group === 'today') return null;
  if (key === 'first_name' && world.person.firstName) return world.person.firstName;
  if (key === 'last_name' && world.person.lastName) return world.person.lastName;
  if (key === 'language') return world.language;
  if (key === 'tags') return world.person.tags.join(', ') || null;
  return own(world.person.fields);
}

type Prepared = { parts: TextPart[]; templates: Template[] | null };
const prepared = new Map<string, Prepared>();

function prepare(text: string): Prepared {
  let ready = prepared.get(text);
  if (!ready) {
    const parts = partsOf(text);
    const simple = parts.every((part) =>
      part.kind === 'merge' ? !part.filtered : !/\{\{|\{%/.test(part.text),
    );
    let templates: Template[] | null = null;
    if (!simple)
      try {
        templates = liquid.parse(text);
      } catch {
        // A text that cannot be read is found before publishing; here its braces are taken away.
        templates = null;
      }
    ready = { parts, templates };
    if (prepared.size > 5_000) prepared.clear();
    prepared.set(text, ready);
  }
  return ready;
}

/**
 * The text with its merge fields filled. A missing value gives its fallback, or nothing; braces never reach
 * a person: what cannot be read is left out. At most 8,000 characters.
 */
export function merge(text: string, world: MergeWorld): string {
  if (!/[{}]/.test(text)) return text;
  const { parts, templates } = prepare(text);
  let merged: string;
  if (templates) {
    try {
      merged = String(liquid.renderSync(templates, scopeOf(world)));
    } catch {
      merged = text.replace(FIELD, '').replace(/\{%[\s\S]*?%\}/g, '');
    }
  } else
    merged = parts
      .map((part) => {
        if (part.kind === 'words') return part.text.replace(FIELD, '').replace(/\{%[\s\S]*?%\}/g, '');
        const value = lookUp(part.path, world);
        return (
          (value === null ? null : typeof value === 'string' ? value : valueWords(value)) ??
          part.fallback ??
          ''
        );
      })
      .join('');
  // Taking a pair away can bring another together.
  while (/\{\{|\}\}/.test(merged)) merged = merged.replace(/\{{2,}|\}{2,}/g, '');
  return merged
    .replace(/ {2,}/g, ' ')
    .replace(/ +([,.;:!?])/g, '$1')
    .slice(0, MOST);
}

/**
 * Like {@link merge}, but a text that is one merge field alone keeps its type: a number, true or false, a
 * list. For bodies sent to other systems.
 */
export function mergeTyped(text: string, world: MergeWorld): unknown {
  const { parts } = prepare(text);
  const only = parts.length === 1 ? parts[0] : undefined;
  if (only?.kind !== 'merge' || only.filtered) return merge(text, world);
  const value = lookUp(only.path, world);
  if (value === null) return only.fallback;
  return typeof value === 'string' ? value : value.value;
}

/** Merges every text in a JSON value. */
export function mergeJson(value: unknown, world: MergeWorld): unknown {
  if (typeof value === 'string') return mergeTyped(value, world);
  if (Array.isArray(value)) return value.map((each) => mergeJson(each, world));
  if (value !== null && typeof value === 'object')
    return Object.fromEntries(Object.entries(value).map(([key, each]) => [key, mergeJson(each, world)]));
  return value;
}

function scopeOf(world: MergeWorld): object {
  const plain = (values: Record<string, Value>) =>
    Object.fromEntries(Object.entries(values).map(([key, value]) => [key, liquidValue(value)]));
  const { person } = world;
  return {
    language: world.language,
    today: DateTime.fromMillis(world.now, { zone: world.zone }).toFormat('yyyy-MM-dd'),
    person: {
      ...plain(person.fields),
      ...(person.firstName && { first_name: person.firstName }),
      ...(person.lastName && { last_name: person.lastName }),
      language: world.language,
      tags: person.tags,
      lists: person.lists,
    },
    brief: saidBrief(world.client),
    file: world.client.files ?? {},
    client: { name: world.client.name, country: world.client.country, currency: currencyIn(world) },
    line: { name: world.line.name, channel: world.line.channel },
    answers: plain(world.answers),
  };
}

const liquidValue = (value: Value) =>
  value.type === 'number' ? value.value : value.type === 'several of' ? value.value : valueWords(value);
