/** What somebody says they mean, and what they say they do not, in parts as they stand in their words. */
export interface Scope {
  meant: string[];
  excluded: string[];
}

/** "Never" in Italian; with a figure beside it, it is May in three other languages. */
const NEVER_IT = String.raw`(?<!\d[.°]?\s*(?:de )?)mai(?!\.?\s*\d)`;
/** Ways of leaving something out: what stands behind is not meant. */
const LEAVES_OUT = [
  ...['instead of', 'rather than', 'except for'],
  ...[
    'except',
    'excluding',
    'without',
    'apart from',
    'other than',
    'not',
    'no',
    'never',
    'neither',
    'nor',
    "can[’']?t",
    'cannot',
  ],
  ...['en vez de', 'en lugar de', 'excepto', 'salvo', 'menos', 'sin', 'ni', 'nunca'],
  ...['au lieu de', 'sauf', 'sans', 'pas', 'jamais'],
  ...['anstatt', 'statt', 'außer', 'ausser', 'bis auf', 'ohne', 'nicht', 'kein', 'keine', 'keinen', 'nie'],
  ...['em vez de', 'exceto', 'sem', 'não', 'nao', 'nem'],
  ...['invece di', 'tranne', 'eccetto', 'senza', 'non', NEVER_IT],
];
/** What begins something that is meant, over against what was said before. */
const CONTRASTS = [
  ...[
    'but',
    'instead(?! of)',
    'just',
    'only',
    'rather(?! than)',
    'sino',
    'pero',
    'solo',
    'sólo',
    'mais',
    'seulement',
  ],
  ...['sondern', 'aber', 'nur', 'mas', 'apenas', 'só', 'ma', 'soltanto'],
];
/** Somebody puts themselves right: which of the two they mean is not told by what stands where. */
const CORRECTS = /\b(?:no wait|wait no|sorry|i mean|actually|or rather|scratch that)\b/i;

const word = (words: readonly string[]) => `(?<![\\p{L}\\p{N}])(?:${words.join('|')})(?![\\p{L}\\p{N}])`;
const OUT = new RegExp(word(LEAVES_OUT), 'giu');
const without = (none: string) => new RegExp(word(LEAVES_OUT.filter((each) => each !== none)), 'giu');
/** In Portuguese "no" is "in the", and in French and German "mai" is a month. */
const OUT_OF: Readonly<Record<string, RegExp>> = {
  pt: without('no'),
  fr: without(NEVER_IT),
  de: without(NEVER_IT),
};
const breaks = (stop: string) => new RegExp(`${stop}|${word(CONTRASTS)}`, 'giu');
const BREAK = breaks('[,;:.!?\\n–—]+(?!\\d)');
/** In German the stop behind a figure counts: "3. Juni". */
const BREAK_DE = breaks('(?:(?<!\\d)\\.|\\.(?!\\s*\\p{L})|[,;:!?\\n–—])+(?!\\d)');
/** "But" within these leaves something out, and contrasts nothing. */
const BUT = /(?<![\p{L}\p{N}])(anything|everything|all|any \w+) but(?![\p{L}\p{N}])/giu;
/** Whether anything at all is said in a part. */
const HAS_WORDS = /[\p{L}\p{N}]/u;

/**
 * The scope of negations and exceptions in somebody's words, as yes and no, choices, dates and numbers share
 * it: "no bow, just nails" means "nails" and not "bow". What stands behind a word that leaves out is not
 * meant, up to the end of its part; one that ends its part ("el rojo no") leaves out what stands before it.
 * Null where nothing is left out, and where somebody puts themselves right. `language`: the person's, ISO
 * 639-1, where it is known.
 */
export function scopeOf(written: string, language?: string): Scope | null {
  const out = OUT_OF[language ?? ''] ?? OUT;
  if (CORRECTS.test(written)) return null;
  const kept = written.replace(BUT, (_, all: string) => `${/^any/i.test(all) ? '' : all} except`);
  if (kept.search(out) < 0) return null;
  const scope: Scope = { meant: [], excluded: [] };
  for (const part of kept.split(language === 'de' ? BREAK_DE : BREAK)) {
    const [first, ...behind] = part.split(out);
    const hasFirst = HAS_WORDS.test(first!);
    const said = behind.filter((each) => HAS_WORDS.test(each));
    if (behind.length === 0) {
      if (hasFirst) scope.meant.push(first!.trim());
    } else if (said.length === 0 && hasFirst) scope.excluded.push(first!.trim());
    else {
      if (hasFirst) scope.meant.push(first!.trim());
      scope.excluded.push(...said.map((each) => each.trim()));
    }
  }
  return scope;
}

/** Words for everything there is. */
const EVERYTHING =
  /^(?:all|all of (?:them|it)|everything|todos?|todas?|tous|toutes|tout|alle|alles|tudo|tutti|tutte|tutto)$/;

/** Whether somebody means everything, by their words folded. */
export const meansAll = (said: string): boolean => EVERYTHING.test(said);
