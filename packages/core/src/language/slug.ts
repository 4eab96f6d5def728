/**
 * Words as a part of a name that machines read: small letters and digits, `joiner` between them, accents
 * taken off. May be ''.
 */
export function slug(words: string, joiner: '-' | '_'): string {
  return words
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, joiner)
    .replace(/^[-_]+|[-_]+$/g, '');
}

/**
 * What was typed as the key of a field: begins with a letter, at most 40 characters; "field" where nothing is
 * left.
 */
export function fieldKey(typed: string): string {
  return (
    slug(typed, '_')
      .replace(/^[^a-z]+/, '')
      .slice(0, 40)
      .replace(/_+$/, '') || 'field'
  );
}
