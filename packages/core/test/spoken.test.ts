import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import { languageOfText } from '../src/language/spoken';

const heard = parse(readFileSync(join(__dirname, 'heard/languages.yaml'), 'utf8')) as Record<
  string,
  string[]
>;
const ALL = ['en', 'es', 'fr', 'de', 'pt', 'it'];

test('the language of a first message is told, or not told, never mistaken', () => {
  const told = Object.entries(heard).flatMap(([language, said]) =>
    said.map((text) => ({ text, language, got: languageOfText(text, ALL) ?? 'none' })),
  );
  expect(told.filter(({ language, got }) => got !== language)).toEqual([]);
});

test('only a language that the client speaks is told', () => {
  expect(languageOfText('hola, quería saber si tienen sitio el sábado', ['en', 'fr'])).toBeNull();
});
