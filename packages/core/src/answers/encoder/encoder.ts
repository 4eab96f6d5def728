import { KERNEL } from './kernel';
import type { Dense, EncoderModel, Layer, Norm } from './model';
import { Vocabulary } from './vocabulary';

/** How many numbers a text becomes. */
export const VECTOR_LENGTH = 512;
/** Of a text so many pieces are read, and so many letters looked at. */
const MOST_PIECES = 128;
const MOST_LETTERS = 2_000;
/** Rows that are multiplied at once: the pieces of several texts. */
const MOST_ROWS = 256;
const HEADS = 4;
const EVEN = 1e-6;
const LEAST_LENGTH = 1e-12;

/** Columns of a panel, and rows that the kernel takes at once. */
const PANEL = 8;
const ROWS_AT_ONCE = 4;
const PAGE = 65_536;

/** A layer in the kernel's memory, by the addresses of its weights and its bias. */
interface Placed {
  weights: number;
  bias: number;
  depth: number;
  columns: number;
}

interface PlacedLayer extends Omit<Layer, 'asks' | 'tells' | 'widens' | 'narrows'> {
  asks: Placed;
  tells: Placed;
  widens: Placed;
  narrows: Placed;
}

/** Room for rows of numbers in the kernel's memory. */
interface Room {
  at: number;
  values: Float32Array;
}

type Rooms = Record<'narrow' | 'even' | 'row' | 'asked' | 'told' | 'wide', Room>;

/**
 * Turns English texts into vectors of {@link VECTOR_LENGTH} numbers of length 1: the nearer two texts are in
 * meaning, the nearer the product of their vectors is to 1. Two layers of a transformer, its mean, and one
 * layer more; about a millisecond for each word. The same text gives the same vector everywhere.
 */
export class SentenceEncoder {
  readonly #vocabulary: Vocabulary;
  readonly #embedding: Float32Array;
  readonly #waves: Float32Array;
  readonly #widensFirst: Placed;
  readonly #layers: PlacedLayer[];
  readonly #last: Placed;
  readonly #rooms: Rooms;
  readonly #multiply: (...args: number[]) => void;

  constructor({ pieces, embedding, waves, widensFirst, layers, last }: EncoderModel) {
    this.#vocabulary = new Vocabulary(pieces);
    this.#embedding = embedding;
    this.#waves = waves;
    const dense = [widensFirst, last, ...layers.flatMap((of) => [of.asks, of.tells, of.widens, of.narrows])];
    const widest = Math.max(...dense.map(({ columns }) => columns));
    const rooms = { narrow: 256, even: 512, row: 512, asked: widest, told: 512, wide: widest };
    const floats =
      dense.reduce((sum, { depth, columns }) => sum + (depth + 1) * columns, 0) +
      Object.values(rooms).reduce((sum, columns) => sum + columns * MOST_ROWS, 0);
    const memory = new WebAssembly.Memory({ initial: Math.ceil((4 * floats) / PAGE) + 1 });
    // Nothing lies at the address 0.
    let free = 16;
    const room = (size: number): Room => {
      const at = free;
      free += 4 * size;
      return { at, values: new Float32Array(memory.buffer, at, size) };
    };
    const place = ({ weights, bias, depth, columns }: Dense): Placed => {
      const [ours, theirs] = [room(depth * columns), room(columns)];
      let to = 0;
      for (let panel = 0; panel < columns; panel += PANEL)
        for (let row = 0; row < depth; row++)
          for (let column = 0; column < PANEL; column++)
            ours.values[to++] = weights[row * columns + panel + column]!;
      theirs.values.set(bias);
      return { weights: ours.at, bias: theirs.at, depth, columns };
    };
    this.#widensFirst = place(widensFirst);
    this.#layers = layers.map((layer) => ({
      ...layer,
      asks: place(layer.asks),
      tells: place(layer.tells),
      widens: place(layer.widens),
      narrows: place(layer.narrows),
    }));
    this.#last = place(last);
    this.#rooms = Object.fromEntries(
      Object.entries(rooms).map(([name, columns]) => [name, room(columns * MOST_ROWS)]),
    ) as Rooms;
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(KERNEL), { encoder: { memory } });
    this.#multiply = exports.multiply as (...args: number[]) => void;
  }

  /** The vectors of some texts, in order. One without a letter has only zeros. */
  encode(texts: readonly string[]): Float32Array[] {
    const cut = texts.map((text) => {
      const plain = text.trim().slice(0, MOST_LETTERS).toLowerCase();
      return this.#vocabulary.piecesOf(plain).slice(0, MOST_PIECES);
    });
    const vectors = texts.map(() => new Float32Array(VECTOR_LENGTH));
    let from = 0;
    while (from < cut.length) {
      let rows = 0;
      let to = from;
      for (; to < cut.length && rows + cut[to]!.length <= MOST_ROWS; to++) rows += cut[to]!.length;
      if (rows > 0) this.#encodeSome(cut.slice(from, to), vectors.slice(from, to));
      from = to;
    }
    return vectors;
  }

  /** The pieces of some texts, below each other in one room. */
  #encodeSome(texts: readonly number[][], vectors: readonly Float32Array[]): void {
    const { narrow, even, row, asked, told, wide } = this.#rooms;
    const rows = texts.reduce((sum, pieces) => sum + pieces.length, 0);
    this.#place(texts, narrow.values);
    this.#run(this.#widensFirst, narrow, row, rows);
    for (const [number, layer] of this.#layers.entries()) {
      const from = number === 0 ? narrow : row;
      const width = layer.asks.depth;
      evenOut(from.values, even.values, rows, width, layer.before);
      this.#run(layer.asks, even, asked, rows);
      let first = 0;
      for (const { length } of texts) {
        attend(asked.values, told.values, first, length, width, layer.sharpness);
        first += length;
      }
      this.#run(layer.tells, told, even, rows);
      addTo(row.values, even.values, rows * VECTOR_LENGTH);
      evenOut(row.values, even.values, rows, VECTOR_LENGTH, layer.between);
      this.#run(layer.widens, even, wide, rows, 0);
      this.#run(layer.narrows, wide, even, rows);
      addTo(row.values, even.values, rows * VECTOR_LENGTH);
    }
    even.values.fill(0, 0, texts.length * VECTOR_LENGTH);
    let at = 0;
    for (const [text, { length }] of texts.entries())
      for (let piece = 0; piece < length; piece++, at++)
        for (let each = 0; each < VECTOR_LENGTH; each++)
          even.values[text * VECTOR_LENGTH + each]! += row.values[at * VECTOR_LENGTH + each]! / length;
    this.#run(this.#last, even, told, texts.length);
    for (const [text, vector] of vectors.entries()) {
      if (texts[text]!.length === 0) continue;
      let sum = 0;
      for (let each = 0; each < VECTOR_LENGTH; each++) {
        vector[each] = Math.tanh(told.values[text * VECTOR_LENGTH + each]!);
        sum += vector[each]! ** 2;
      }
      const length = Math.sqrt(Math.max(sum, LEAST_LENGTH));
      for (let each = 0; each < VECTOR_LENGTH; each++) vector[each]! /= length;
    }
  }

  /** Each piece's row of numbers, twice as large as it is kept, with its position as waves. */
  #place(texts: readonly number[][], to: Float32Array): void {
    const half = this.#waves.length;
    let at = 0;
    for (const pieces of texts)
      for (const [position, piece] of pieces.entries())
        for (let each = 0; each < 2 * half; each++, at++) {
          const phase = position * this.#waves[each % half]!;
          to[at] =
            2 * this.#embedding[piece * 2 * half + each]! + (each < half ? Math.sin(phase) : Math.cos(phase));
        }
  }

  #run(layer: Placed, from: Room, to: Room, rows: number, floor = -Infinity): void {
    const whole = Math.ceil(rows / ROWS_AT_ONCE) * ROWS_AT_ONCE;
    this.#multiply(from.at, layer.weights, layer.bias, to.at, whole, layer.depth, layer.columns, floor);
  }
}

function addTo(to: Float32Array, from: Float32Array, size: number): void {
  for (let at = 0; at < size; at++) to[at]! += from[at]!;
}

/** Each row with a mean of 0 and a spread of 1, then scaled and moved. */
function evenOut(from: Float32Array, to: Float32Array, rows: number, width: number, norm: Norm): void {
  for (let start = 0; start < rows * width; start += width) {
    let mean = 0;
    for (let each = 0; each < width; each++) mean += from[start + each]!;
    mean /= width;
    let spread = 0;
    for (let each = 0; each < width; each++) spread += (from[start + each]! - mean) ** 2;
    const by = 1 / Math.sqrt(spread / width + EVEN);
    for (let each = 0; each < width; each++)
      to[start + each] = (from[start + each]! - mean) * by * norm.scale[each]! + norm.bias[each]!;
  }
}

/** What the pieces of one text tell each other: `asked` holds their questions, keys and values. */
function attend(
  asked: Float32Array,
  told: Float32Array,
  first: number,
  length: number,
  width: number,
  sharpness: number,
): void {
  const size = width / HEADS;
  const row = 3 * width;
  const shares = new Float32Array(length);
  for (let head = 0; head < HEADS; head++)
    for (let one = 0; one < length; one++) {
      const question = (first + one) * row + head * size;
      let most = -Infinity;
      for (let other = 0; other < length; other++) {
        const key = (first + other) * row + width + head * size;
        let sum = 0;
        for (let each = 0; each < size; each++) sum += asked[question + each]! * asked[key + each]!;
        shares[other] = sum * sharpness;
        most = Math.max(most, shares[other]!);
      }
      let all = 0;
      for (let other = 0; other < length; other++) all += shares[other] = Math.exp(shares[other]! - most);
      const to = (first + one) * width + head * size;
      told.fill(0, to, to + size);
      for (let other = 0; other < length; other++) {
        const value = (first + other) * row + 2 * width + head * size;
        const share = shares[other]! / all;
        for (let each = 0; each < size; each++) told[to + each]! += share * asked[value + each]!;
      }
    }
}
