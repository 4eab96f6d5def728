import type { Piece } from './vocabulary';

/** The files of a sentence encoder: what its weights are called and how they lie, the weights, its pieces. */
export interface EncoderFiles {
  /** `model.json`, read. */
  model: { weightsManifest: { weights: { name: string; shape: number[]; dtype: string }[] }[] };
  /** The shards of the weights, one after the other. */
  weights: ArrayBuffer;
  pieces: Piece[];
}

/** The weights of one layer that multiplies: `weights` row by row, `depth` × `columns`. */
export interface Dense {
  weights: Float32Array;
  bias: Float32Array;
  depth: number;
  columns: number;
}

/** What evens a row out: its mean becomes 0 and its spread 1, then this. */
export interface Norm {
  scale: Float32Array;
  bias: Float32Array;
}

/** One layer of the encoder: what each piece takes from the others, then what becomes of it by itself. */
export interface Layer {
  before: Norm;
  /** Questions, keys and values of all heads, beside each other. */
  asks: Dense;
  tells: Dense;
  between: Norm;
  widens: Dense;
  narrows: Dense;
  /** How much the likeness of a question and a key counts. */
  sharpness: number;
}

export interface EncoderModel {
  pieces: Piece[];
  /** A row for each piece. */
  embedding: Float32Array;
  /** How fast the waves of the positions are. */
  waves: Float32Array;
  /** Widens what came in, to be added to what the first layer's pieces tell each other. */
  widensFirst: Dense;
  layers: [Layer, Layer];
  last: Dense;
}

/** Finds the weights in their files. Throws where a weight is missing. */
export function readModel({ model, weights, pieces }: EncoderFiles): EncoderModel {
  const found = new Map<string, { shape: number[]; values: Float32Array }>();
  let at = 0;
  for (const { name, shape, dtype } of model.weightsManifest.flatMap((group) => group.weights)) {
    const size = shape.reduce((product, each) => product * each, 1);
    if (dtype === 'float32') found.set(name, { shape, values: new Float32Array(weights, at, size) });
    at += 4 * size;
  }
  const named = (ending: string) => {
    const [name] = [...found.keys()].filter((each) => each.endsWith(ending));
    if (name === undefined) throw new Error(`The sentence encoder has no weights named “${ending}”.`);
    return found.get(name)!;
  };
  const values = (ending: string) => named(ending).values;
  const dense = (of: string, bias: string): Dense => {
    const { shape, values: each } = named(of);
    const [depth, columns] = shape.slice(-2) as [number, number];
    return { weights: each, bias: values(bias), depth, columns };
  };
  const norm = (of: string): Norm => ({
    scale: values(`${of}/layer_norm_scale/ConcatPartitions/concat`),
    bias: values(`${of}/layer_norm_bias/ConcatPartitions/concat`),
  });
  const layer = (number: 0 | 1): Layer => {
    const own = `Encode/Layer_${number}/TransformerLayer`;
    const stack = `TransformerStack/Layer_${number}/TransformerLayer`;
    const attention = `${own}/MultiheadAttention`;
    const within = (of: string) => `${attention}/${of}_transform_single`;
    const forward = (conv: string) =>
      dense(`${stack}/FFN/${conv}/Tensordot/Reshape_1`, `${own}/FFN/${conv}/bias/ConcatPartitions/concat`);
    const each = (of: string) =>
      dense(`${within(of)}/kernel/part_0`, `${within(of)}/bias/ConcatPartitions/concat`);
    return {
      before: norm(`${own}/layer_prepostprocess/layer_norm`),
      asks: each('qkv'),
      tells: each('output'),
      between: norm(`${own}/FFN/layer_prepostprocess/layer_norm`),
      widens: forward('conv1'),
      narrows: forward('conv2'),
      sharpness: values(`${stack}/MultiheadAttention/mul/y`)[0]!,
    };
  };
  const first = 'Encode/Layer_0/TransformerLayer/dense';
  return {
    pieces,
    embedding: values('module/Embeddings_en'),
    waves: values('TimingSignal/ExpandDims_1'),
    widensFirst: dense(`${first}/kernel/ConcatPartitions/concat`, `${first}/bias/ConcatPartitions/concat`),
    layers: [layer(0), layer(1)],
    last: dense('hidden_layers/tanh_layer_0/weights', 'hidden_layers/tanh_layer_0/bias'),
  };
}
