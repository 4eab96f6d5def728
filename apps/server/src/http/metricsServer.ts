import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Metrics } from '../platform/metrics';
import { sameSecret } from '../platform/secrets';

/**
 * The figures on a port of their own, for whoever is let in to it: by where it listens, and by a token where
 * one is set.
 */
export async function serveMetrics(
  metrics: Metrics,
  { port, host, token }: { port: number; host: string; token: string | null },
): Promise<{ address: string; stop(): Promise<void> }> {
  const server = createServer((request, response) => {
    const given = (request.headers.authorization ?? '').replace(/^Bearer /, '');
    if (token !== null && !sameSecret(given, token)) return void response.writeHead(401).end();
    if (request.method !== 'GET' || request.url !== '/metrics') return void response.writeHead(404).end();
    metrics.registry.metrics().then(
      (text) => response.writeHead(200, { 'content-type': metrics.registry.contentType }).end(text),
      () => response.writeHead(503).end(),
    );
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  return {
    address: `http://${host}:${(server.address() as AddressInfo).port}/metrics`,
    async stop() {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
