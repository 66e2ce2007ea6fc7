import { createServer as plainServer, type RequestListener, type Server } from 'node:http';
import { createServer as secureServer } from 'node:https';

/**
 * How long a connection may rest before this end closes it, in ms. Whoever sends on one that is being closed
 * gets no answer, and can't know whether the change was made; so the other end must be the first to let go.
 * Proxies rest theirs for up to a minute (common practice), Node closes after five seconds on its own.
 */
export const REST_MS = 75_000;

/** What the application answers on: plain, or with TLS where there is a certificate. */
export function serverOf(app: RequestListener, tls: { cert: Buffer; key: Buffer } | null = null): Server {
  const server = tls ? secureServer(tls, app) : plainServer(app);
  server.keepAliveTimeout = REST_MS;
  return server;
}
