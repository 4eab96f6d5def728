/** The seven-bit default alphabet of 3GPP TS 23.038 (formerly GSM 03.38), table 6.2.1, without the escape. */
const BASIC = new Set(
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà',
);
/** The extension table, 6.2.1.1: each counts two. */
const EXTENSION = new Set('\f^{}\\[~]|€');

export interface SmsParts {
  /** How many parts are sent and paid for. */
  parts: number;
  encoding: 'GSM-7' | 'UCS-2';
  /** Septets or 16-bit units used in all. */
  units: number;
  /** Characters that make it UCS-2, each once; empty under GSM-7. */
  dear: string[];
}

/** Room in a single message, and in each part of a split one (the header takes the rest). */
const ROOM = { 'GSM-7': { single: 160, split: 153 }, 'UCS-2': { single: 70, split: 67 } } as const;

/**
 * Counts the parts of an SMS text. A character that counts two (an extension character, a surrogate pair) is
 * never torn across two parts. Source: 3GPP TS 23.038 and 23.040 (concatenation with an 8-bit reference).
 */
export function smsParts(text: string): SmsParts {
  const characters = [...text];
  const dear = [
    ...new Set(characters.filter((character) => !BASIC.has(character) && !EXTENSION.has(character))),
  ];
  const encoding = dear.length === 0 ? 'GSM-7' : 'UCS-2';
  const widths = characters.map((character) =>
    encoding === 'GSM-7' ? (EXTENSION.has(character) ? 2 : 1) : character.length,
  );
  const units = widths.reduce((sum, width) => sum + width, 0);
  const room = ROOM[encoding];
  if (units <= room.single) return { parts: 1, encoding, units, dear };
  let parts = 1;
  let used = 0;
  for (const width of widths) {
    if (used + width > room.split) {
      parts++;
      used = 0;
    }
    used += width;
  }
  return { parts, encoding, units, dear };
}
