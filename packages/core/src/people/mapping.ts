import { FieldType, type FieldDefinition } from './person';
import { fold } from '../language/fold';
import { fieldKey } from '../language/slug';
import { ColumnUse, keyOf } from './columnUse';
import { readCell, type CellWorld } from './cellReading';
import { OWN_COLUMNS, ofLine } from './csvWriting';

/** A column as the mapping shows it. */
export interface Column {
  name: string;
  /** The first few cells that are not empty. */
  samples: string[];
  use: ColumnUse;
}

export interface KnownToMapping {
  fields: readonly Pick<FieldDefinition, 'key' | 'name' | 'type'>[];
  lines: readonly { key: string; channel: string }[];
}

const NAMES: [ColumnUse, RegExp][] = [
  [{ as: 'person id' }, /^(person )?(id|uuid|uid)$/],
  [{ as: 'first name' }, /^(first ?name|given ?name|forename|vorname|prenom|nombre|nome proprio)$/],
  [
    { as: 'last name' },
    /^(last ?name|surname|family ?name|nachname|familienname|nom( de famille)?|apellidos?|sobrenome|cognome)$/,
  ],
  [{ as: 'whole name' }, /^((full|whole|display|contact) ?name|name|nombre completo|nom complet|nome)$/],
  [{ as: 'language' }, /^(spoken )?(language|lang|locale|sprache|langue|idioma|lingua)$/],
  [{ as: 'tags' }, /^(all )?(tags?|labels?|schlagworte|etiquetas|etiquettes)$/],
  [{ as: 'lists' }, /^(all )?(lists?|listen|listes|listas)$/],
  [{ as: 'source' }, /^(source|came from|origin|quelle|origen)$/],
];
const FIELD_NAMES: [string, FieldType, RegExp][] = [
  ['email', 'email', /^(e ?mail|mail)( address| adresse)?$|^correo( electronico)?$|^courriel$/],
  [
    'phone',
    'phone',
    /^(phone|mobile|cell|tel|telephone|telefon|telefono|handy|movil|portable|whatsapp|sms)( ?(phone|number|no|nummer))?$/,
  ],
];

/**
 * Guesses what each column is for: first by its name, then by what its cells look like. Two columns are never
 * guessed to be the same.
 */
export function guessMapping(
  header: readonly string[],
  rows: readonly (readonly string[])[],
  known: KnownToMapping,
  world: CellWorld,
): Column[] {
  const taken = new Set<string>();
  return header.map((name, at) => {
    const samples = rows.flatMap((cells) => (cells[at]?.trim() ? [cells[at].trim()] : [])).slice(0, 200);
    const use = [
      ownUse(name, known),
      namedUse(name, known),
      samples.length > 0 ? lookedUse(name, samples, known, world) : null,
    ].find((each) => each && !taken.has(keyOf(each))) ?? { as: 'nothing' as const };
    if (use.as !== 'nothing') taken.add(keyOf(use));
    return { name, samples: samples.slice(0, 3), use };
  });
}

const OWN_USES: Record<(typeof OWN_COLUMNS)[number], ColumnUse> = {
  'person id': { as: 'person id' },
  'first name': { as: 'first name' },
  'last name': { as: 'last name' },
  'spoken language': { as: 'language' },
  'came from': { as: 'source' },
  'first met': { as: 'first met' },
  'last seen': { as: 'last seen' },
  'all tags': { as: 'tags' },
  'all lists': { as: 'lists' },
};

/** Columns that we write ourselves. */
function ownUse(name: string, { fields, lines }: KnownToMapping): ColumnUse | null {
  const own = OWN_COLUMNS.find((column) => column === name);
  if (own) return OWN_USES[own];
  for (const { key } of lines)
    for (const [as, column] of [
      ['address', ofLine(key)[0]],
      ['handle', ofLine(key)[1]],
      ['consent', ofLine(key)[2]],
    ] as const)
      if (column === name) return { as, line: key };
  const field = fields.find((each) => each.key === name);
  return field ? { as: 'field', field: field.key, type: field.type } : null;
}

function namedUse(name: string, { fields }: KnownToMapping): ColumnUse | null {
  const said = fold(name);
  const field = fields.find((each) => fold(each.name) === said || each.key === fieldKey(name));
  if (field && said !== '') return { as: 'field', field: field.key, type: field.type };
  const known = NAMES.find(([, pattern]) => pattern.test(said))?.[0];
  if (known) return known;
  const usual = FIELD_NAMES.find(([, , pattern]) => pattern.test(said));
  return usual
    ? { as: 'field', field: usual[0], type: fields.find((each) => each.key === usual[0])?.type ?? usual[1] }
    : null;
}

/** What cells of a type look like, and how large a share of a column has to. */
const LOOKS: { type: FieldType; looks: RegExp; share: number }[] = [
  { type: 'email', looks: /@/, share: 0.6 },
  { type: 'phone', looks: /^\+\d[\d ()/.-]{6,}$/, share: 0.6 },
  { type: 'page address', looks: /^https?:\/\//i, share: 0.6 },
  { type: 'number', looks: /^-?(0|[1-9]\d{0,14})([.,]\d+)?$/, share: 0.9 },
  { type: 'date', looks: /^\d{4}-\d{2}-\d{2}$|^\d{1,2}[./-]\d{1,2}[./-](\d{2}|\d{4})$/, share: 0.6 },
  { type: 'time', looks: /^\d{1,2}:\d{2}$/, share: 0.6 },
  { type: 'yes/no', looks: /^(yes|no|ja|nein|si|sí|oui|non|true|false)$/i, share: 0.9 },
];

/** A field of its own, of the type that all its cells can be read as. */
function lookedUse(name: string, samples: string[], { fields }: KnownToMapping, world: CellWorld): ColumnUse {
  const key = fieldKey(name.trim() === '' ? 'column' : name);
  /**
   * Most of the cells look like it and read as it: a few bad ones are said to be bad, and do not make
   * everything text.
   */
  const mostly = (type: FieldType, looks: RegExp, share: number) => {
    const fit = samples.filter((cell) => looks.test(cell) && readCell(type, cell, world).ok).length;
    // In a short column a single bad cell is a large share, and is a single bad cell all the same.
    return fit >= share * samples.length || (fit >= 3 && fit === samples.length - 1);
  };
  const isId = /\b(id|no|nr|code|zip|plz)\b/i.test(name);
  const found = LOOKS.find(
    ({ type, looks, share }) => !(type === 'number' && isId) && mostly(type, looks, share),
  );
  const type = found?.type ?? 'text';
  return {
    as: 'field',
    field: fields.some((each) => each.key === key && each.type !== type) ? `${key.slice(0, 37)}_2` : key,
    type,
  };
}
