import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import type { Express } from 'express';
import expressStaticGzip from 'express-static-gzip';
import { Problem } from '../platform/problem';
import { cookieOf } from './cookie';

const SCRIPTS = /\/(_expo|assets)\//;

/**
 * The web app: its files, packed when it was built, and its one page for every address. With the page the
 * browser is told what the screen at that address will ask for, so that nothing waits for its turn.
 */
export function hangWebApp(app: Express, folder: string): void {
  const { screens, frame } = readScreens(folder);
  // For those that take no brotli, as browsers do without TLS; what is packed already passes through.
  app.use(compression());
  app.use(
    expressStaticGzip(folder, {
      enableBrotli: true,
      orderPreference: ['br'],
      index: false,
      serveStatic: {
        index: false,
        setHeaders: (response, path) =>
          void response.setHeader(
            'cache-control',
            SCRIPTS.test(path)
              ? 'public, max-age=31536000, immutable'
              : /\/fonts\//.test(path)
                ? 'public, max-age=604800'
                : 'no-cache',
          ),
      },
    }),
  );
  // One address per thing: every other address is a screen of the app.
  app.get('/{*screen}', (request, response) => {
    if (/\.[a-z0-9]{2,5}$/i.test(request.path)) throw new Problem(404, 'Not found', 'There is no such file.');
    // Whoever is not signed in sees the sign-in page at every address; it needs nothing of the screen there.
    const mayBeSignedIn = cookieOf(request) !== null;
    const scripts = screens.find(({ pattern }) => pattern.test(request.path))?.scripts ?? [];
    const questions = ['/api/session', ...(mayBeSignedIn && request.path === '/' ? ['/api/today'] : [])];
    const links = [
      ...[...frame, ...(mayBeSignedIn ? scripts : [])].map((script) => `<${script}>; rel=preload; as=script`),
      ...questions.map((path) => `<${path}>; rel=preload; as=fetch; crossorigin`),
    ];
    response
      .set({ link: links.join(', '), 'cache-control': 'no-cache' })
      .sendFile('index.html', { root: folder });
  });
}

/**
 * The scripts of each screen, by a pattern of its addresses, those with fewer unknowns first; and those of
 * the frame around all of them.
 */
function readScreens(folder: string): { screens: { pattern: RegExp; scripts: string[] }[]; frame: string[] } {
  const file = join(folder, 'screens.json');
  if (!existsSync(file)) return { screens: [], frame: [] };
  const noted = JSON.parse(readFileSync(file, 'utf8')) as Record<string, string[]>;
  const screens = Object.entries(noted)
    .filter(([screen]) => !screen.includes('...') && !screen.startsWith('_'))
    .sort(([one], [other]) => one.split('[').length - other.split('[').length)
    .map(([screen, scripts]) => {
      const path = screen.replace(/(^|\/)index$/, '').replace(/\[[^\]]+\]/g, '[^/]+');
      return { pattern: new RegExp(`^/${path}/?$`), scripts };
    });
  return { screens, frame: noted._layout ?? [] };
}
