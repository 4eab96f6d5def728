import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants } from 'node:zlib';
import subsetFont from 'subset-font';
import { ROOT } from './places';

/** What the web app is made faster with, before and after it is exported. */

const GOOGLE = join(ROOT, 'node_modules/@expo-google-fonts');
/** The fonts as page.css names them, by their files in the packages. */
const FONTS = {
  atkinson: 'atkinson-hyperlegible/400Regular/AtkinsonHyperlegible_400Regular.ttf',
  'atkinson-bold': 'atkinson-hyperlegible/700Bold/AtkinsonHyperlegible_700Bold.ttf',
  'atkinson-italic': 'atkinson-hyperlegible/400Regular_Italic/AtkinsonHyperlegible_400Regular_Italic.ttf',
  bricolage: 'bricolage-grotesque/600SemiBold/BricolageGrotesque_600SemiBold.ttf',
  'plex-mono': 'ibm-plex-mono/400Regular/IBMPlexMono_400Regular.ttf',
};
/** Latin with all its accents, punctuation, currencies, arrows and the shapes of our marks. */
const LETTERS: [number, number][] = [
  [0x20, 0x7e],
  [0xa0, 0x17f],
  [0x218, 0x21b],
  [0x1e80, 0x1e85],
  [0x1ef2, 0x1ef3],
  [0x2010, 0x2044],
  [0x20a0, 0x20bf],
  [0x2116, 0x2122],
  [0x2190, 0x2193],
  [0x2212, 0x2265],
  [0x25a0, 0x25ff],
];

/**
 * Writes the fonts, cut to the letters that are used, into the app's public folder, where they are not there
 * as they are to be.
 */
export async function makeFonts(app: string): Promise<void> {
  const folder = join(app, 'public/fonts');
  const wanted = JSON.stringify({ FONTS, LETTERS });
  // Written last, so that fonts of a command that was stopped are made again.
  const note = join(folder, 'made-from.json');
  if (existsSync(note) && readFileSync(note, 'utf8') === wanted) return;
  mkdirSync(folder, { recursive: true });
  const letters = LETTERS.map(([from, to]) =>
    String.fromCodePoint(...Array.from({ length: to - from + 1 }, (_, at) => from + at)),
  ).join('');
  for (const [name, file] of Object.entries(FONTS)) {
    const font = await subsetFont(readFileSync(join(GOOGLE, file)), letters, { targetFormat: 'woff2' });
    writeFileSync(join(folder, `${name}.woff2`), font);
  }
  writeFileSync(note, wanted);
}

const brotli = promisify(brotliCompress);
const COMPRESSED = /\.(js|css|html|json|svg)$/;
/** Below that a packet carries it either way. */
const LEAST_BYTES = 1_000;

/** Lays a brotli of the best quality beside each file that shrinks by it. */
export async function compressFiles(folder: string): Promise<void> {
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((name) => join(folder, name))
    .filter((path) => COMPRESSED.test(path) && statSync(path).size > LEAST_BYTES);
  await Promise.all(
    files.map(async (path) => {
      const bytes = readFileSync(path);
      const packed = await brotli(bytes, {
        params: {
          [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY,
          [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
        },
      });
      writeFileSync(`${path}.br`, packed);
    }),
  );
}

/** Where an export has its scripts. */
const SCRIPTS = '_expo/static/js/web';

/**
 * Which scripts each screen needs besides those of every page, found in the source maps, which are removed:
 * the server tells the browser of them before the app itself asks for them.
 */
export function noteScreens(folder: string): void {
  const scripts = join(folder, SCRIPTS);
  const screens: Record<string, string[]> = {};
  const parts: Record<string, string> = {};
  for (const name of readdirSync(scripts).filter((each) => !each.endsWith('.map'))) {
    const path = join(scripts, name);
    const map = JSON.parse(readFileSync(`${path}.map`, 'utf8')) as SourceMap;
    const script = `/${SCRIPTS}/${name}`;
    // The first page's own parts are asked for by the page; a part that several screens share has many.
    if (!/^(__|entry)/.test(name))
      for (const source of sourcesOf(map)) {
        const screen = /\/apps\/web\/app\/(.+)\.tsx$/.exec(source)?.[1];
        if (screen) screens[screen] = [script];
        const part = /\/features\/(needs\w+)\.ts$/.exec(source)?.[1];
        if (part) parts[part] = script;
      }
    rmSync(`${path}.map`);
    writeFileSync(path, readFileSync(path, 'utf8').replace(/\n\/\/# sourceMappingURL=.*\s*$/, '\n'));
  }
  for (const [screen, needed] of Object.entries(screens)) {
    const file = readFileSync(join(ROOT, 'apps/web/app', `${screen}.tsx`), 'utf8');
    for (const [part, script] of Object.entries(parts)) if (file.includes(`/${part}'`)) needed.push(script);
  }
  writeFileSync(join(folder, 'screens.json'), JSON.stringify(screens, null, 2));
}

interface SourceMap {
  sources?: string[];
  sections?: { map: SourceMap }[];
}
const sourcesOf = ({ sources = [], sections = [] }: SourceMap): string[] => [
  ...sources,
  ...sections.flatMap(({ map }) => sourcesOf(map)),
];
