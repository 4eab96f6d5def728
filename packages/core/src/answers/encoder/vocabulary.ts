/** A piece of a word with how likely it is (a logarithm); spaces are written as ▁. */
export type Piece = readonly [piece: string, likely: number];

const SPACE = '▁';
/** The first pieces are signs of the model's own; the very first stands for what is in no piece. */
const OWN_SIGNS = 6;
const UNKNOWN = 0;

/** The pieces that a sentence encoder knows, and how a text is cut into them. */
export class Vocabulary {
  readonly #places: ReadonlyMap<string, number>;
  readonly #likely: readonly number[];
  readonly #longest: number;

  constructor(pieces: readonly Piece[]) {
    const known = pieces.map(([piece], place) => [piece, place] as const).slice(OWN_SIGNS);
    this.#places = new Map(known);
    this.#likely = pieces.map(([, likely]) => likely);
    this.#longest = Math.max(...known.map(([piece]) => [...piece].length));
  }

  /** The places of the pieces that a text is most likely made of, in order; none of an empty text. */
  piecesOf(text: string): number[] {
    const normal = text.normalize('NFKC');
    if (normal === '') return [];
    const signs = [...`${SPACE}${normal.replaceAll(' ', SPACE)}`];
    // Up to each sign: how likely the best cut is, its last piece, and where that begins. A sign of no piece
    // takes nothing away.
    const best = new Float64Array(signs.length + 1);
    const last = new Int32Array(signs.length + 1);
    const from = new Int32Array(signs.length + 1);
    const reached = new Uint8Array(signs.length + 1);
    reached[0] = 1;
    const offer = (to: number, start: number, place: number) => {
      const likely = best[start]! + this.#likely[place]!;
      if (reached[to] && likely < best[to]!) return;
      [reached[to], best[to], last[to], from[to]] = [1, likely, place, start];
    };
    for (let start = 0; start < signs.length; start++) {
      let piece = '';
      let any = false;
      for (let to = start + 1; to <= Math.min(signs.length, start + this.#longest); to++) {
        piece += signs[to - 1]!;
        const place = this.#places.get(piece);
        if (place === undefined) continue;
        any = true;
        offer(to, start, place);
      }
      if (!any) offer(start + 1, start, UNKNOWN);
    }
    const places: number[] = [];
    for (let to = signs.length; to > 0; to = from[to]!)
      if (last[to] !== UNKNOWN || places.at(-1) !== UNKNOWN) places.push(last[to]!);
    return places.reverse();
  }
}
