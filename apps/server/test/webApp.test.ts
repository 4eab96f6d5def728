import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { get, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, brotliDecompressSync, gunzipSync } from 'node:zlib';
import express, { type ErrorRequestHandler } from 'express';
import { hangWebApp } from '../src/http/webApp';
import { Problem } from '../src/platform/problem';

const SCRIPT = 'console.log("one of many");'.repeat(200);
let folder: string;
let server: Server;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'web-'));
  mkdirSync(join(folder, '_expo'));
  mkdirSync(join(folder, 'fonts'));
  writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Dart Loop</title>');
  writeFileSync(join(folder, '_expo/a.js'), SCRIPT);
  writeFileSync(join(folder, '_expo/a.js.br'), brotliCompressSync(SCRIPT));
  writeFileSync(join(folder, 'fonts/a.woff2'), 'font');
  writeFileSync(
    join(folder, 'screens.json'),
    JSON.stringify({
      '[client]/loops/[loop]': ['/_expo/loop.js', '/_expo/engine.js'],
      '[client]/loops/index': ['/_expo/loops.js'],
      'inbox/[client]/[conversation]': ['/_expo/inbox.js'],
      '[client]/people/[person]/index': ['/_expo/person.js'],
      '[...missing]': ['/_expo/missing.js'],
      index: ['/_expo/today.js'],
      _layout: ['/_expo/frame.js'],
    }),
  );
  const app = express();
  hangWebApp(app, folder);
  const answerProblem: ErrorRequestHandler = (error, _request, response, _next) =>
    void response.status(error instanceof Problem ? error.status : 500).end();
  app.use(answerProblem);
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

/** As the bytes come: fetch would unpack them. */
const ask = (path: string, headers: Record<string, string> = {}) =>
  new Promise<{ answer: IncomingMessage; body: Buffer }>((resolve, reject) => {
    const { port } = server.address() as AddressInfo;
    get({ port, host: '127.0.0.1', path, headers, agent: false }, (answer) => {
      const pieces: Buffer[] = [];
      answer.on('data', (piece: Buffer) => pieces.push(piece));
      answer.on('end', () => resolve({ answer, body: Buffer.concat(pieces) }));
    }).on('error', reject);
  });

test('a script goes out packed as it was built, as gzip to whoever takes no brotli, and whole to whoever takes neither', async () => {
  const best = await ask('/_expo/a.js', { 'accept-encoding': 'gzip, deflate, br' });
  expect(best.answer.headers).toMatchObject({
    'content-encoding': 'br',
    'cache-control': 'public, max-age=31536000, immutable',
  });
  expect(brotliDecompressSync(best.body).toString()).toBe(SCRIPT);
  // Browsers take brotli over TLS only.
  const plain = await ask('/_expo/a.js', { 'accept-encoding': 'gzip, deflate' });
  expect(plain.answer.headers['content-encoding']).toBe('gzip');
  expect(gunzipSync(plain.body).toString()).toBe(SCRIPT);
  const whole = await ask('/_expo/a.js');
  expect(whole.answer.headers['content-encoding']).toBeUndefined();
  expect(whole.body.toString()).toBe(SCRIPT);
});

test('with the page comes what its screen will ask for; whoever cannot be signed in sees none of it', async () => {
  const links = async (path: string, cookie?: string) =>
    String((await ask(path, cookie ? { cookie } : {})).answer.headers.link);
  const signedIn = `dartloop_session=${'t'.repeat(43)}`;
  const frame = '</_expo/frame.js>; rel=preload; as=script, ';
  expect(await links('/')).toBe(`${frame}</api/session>; rel=preload; as=fetch; crossorigin`);
  expect(await links('/', signedIn)).toBe(
    `${frame}</_expo/today.js>; rel=preload; as=script, </api/session>; rel=preload; as=fetch; crossorigin, </api/today>; rel=preload; as=fetch; crossorigin`,
  );
  expect(await links('/saltmarsh-ferries/loops/l1', signedIn)).toBe(
    `${frame}</_expo/loop.js>; rel=preload; as=script, </_expo/engine.js>; rel=preload; as=script, </api/session>; rel=preload; as=fetch; crossorigin`,
  );
  expect(await links('/saltmarsh-ferries/loops', signedIn)).toContain('</_expo/loops.js>');
  // What is named in the address goes before what may be anything.
  expect(await links('/inbox/saltmarsh-ferries/c1', signedIn)).toContain('</_expo/inbox.js>');
  expect(await links('/saltmarsh-ferries/people/p1', signedIn)).toContain('</_expo/person.js>');
  expect(await links('/nowhere/at/all/here', signedIn)).toBe(
    `${frame}</api/session>; rel=preload; as=fetch; crossorigin`,
  );
});

test('every address is the page, but for a file that is not there', async () => {
  const page = await ask('/saltmarsh-ferries/people');
  expect(page.answer.headers['content-type']).toContain('text/html');
  expect(page.answer.headers['cache-control']).toBe('no-cache');
  expect((await ask('/fonts/a.woff2')).answer.headers['cache-control']).toBe('public, max-age=604800');
  expect((await ask('/gone.js')).answer.statusCode).toBe(404);
});
