declare module 'subset-font' {
  /** Cuts a font to the letters of a text. */
  export default function subsetFont(
    font: Buffer,
    text: string,
    options: { targetFormat: 'woff2' | 'woff' | 'sfnt' },
  ): Promise<Buffer>;
}
