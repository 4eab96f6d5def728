import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import { compressFiles, noteScreens } from '../webFiles';

const SCRIPTS = '_expo/static/js/web';
let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'export-'));
  mkdirSync(join(folder, SCRIPTS), { recursive: true });
});
afterEach(() => rmSync(folder, { recursive: true }));

const script = (name: string, map: object) => {
  writeFileSync(join(folder, SCRIPTS, name), `code();\n//# sourceMappingURL=${name}.map\n`);
  writeFileSync(join(folder, SCRIPTS, `${name}.map`), JSON.stringify(map));
};

test('each screen is noted with its scripts, and no map is left', () => {
  const app = (file: string) => `/somewhere/apps/web/app/${file}.tsx`;
  script('entry-1.js', { sources: [app('index')] });
  script('index-2.js', { sources: [app('index'), '/somewhere/apps/web/features/today/Today.tsx'] });
  script('[loop]-3.js', { sections: [{ map: { sources: [app('[client]/loops/[loop]')] } }] });
  script('account-5.js', { sources: [app('account')] });
  script('needsForms-6.js', { sources: ['/somewhere/apps/web/features/needsForms.ts'] });
  script('needsEngine-4.js', { sources: ['/somewhere/apps/web/features/needsEngine.ts'] });
  noteScreens(folder);
  expect(JSON.parse(readFileSync(join(folder, 'screens.json'), 'utf8'))).toEqual({
    index: [`/${SCRIPTS}/index-2.js`],
    account: [`/${SCRIPTS}/account-5.js`, `/${SCRIPTS}/needsForms-6.js`],
    // It asks for the engine.
    '[client]/loops/[loop]': [`/${SCRIPTS}/[loop]-3.js`, `/${SCRIPTS}/needsEngine-4.js`],
  });
  expect(existsSync(join(folder, SCRIPTS, 'index-2.js.map'))).toBe(false);
  expect(readFileSync(join(folder, SCRIPTS, 'index-2.js'), 'utf8')).toBe('code();\n');
});

test('what shrinks by it has its packed twin; what is small or packed already has none', async () => {
  const code = 'one line like another;\n'.repeat(500);
  writeFileSync(join(folder, SCRIPTS, 'large.js'), code);
  writeFileSync(join(folder, SCRIPTS, 'small.js'), 'code();');
  writeFileSync(join(folder, 'font.woff2'), Buffer.alloc(5_000));
  await compressFiles(folder);
  expect(brotliDecompressSync(readFileSync(join(folder, SCRIPTS, 'large.js.br'))).toString()).toBe(code);
  expect(existsSync(join(folder, SCRIPTS, 'small.js.br'))).toBe(false);
  expect(existsSync(join(folder, 'font.woff2.br'))).toBe(false);
});
