import type { RequestHandler } from 'express';
import { HttpProblem } from './problem.ts';

/** Names by which this machine means itself. */
const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];
const READS = new Set(['GET', 'HEAD', 'OPTIONS']);

const nameOf = (host: string): string => host.replace(/:\d+$/, '').toLowerCase();

/**
 * Answers only to the names that the server was told: a page elsewhere can make its own name mean this machine
 * (DNS rebinding), and would then read everything as if it were at home here.
 * @param hosts names beside those of the machine itself
 */
export function ownHosts(hosts: readonly string[] = []): RequestHandler {
  const known = new Set([...LOOPBACK, ...hosts.map((host) => host.toLowerCase())]);
  return (req, _res, next) => {
    const host = req.headers.host ?? '';
    if (known.has(nameOf(host))) {
      next();
      return;
    }
    const way =
      'Open it by a name of its own machine, such as http://127.0.0.1, or tell the server the name: HOSTS.';
    next(new HttpProblem('wrong-host', `“${host.slice(0, 100)}” is no name of this server. ${way}`));
  };
}

/** Refuses changes that a page of another origin asks for, whatever their content type (RFC 6454). */
export const ownOrigin: RequestHandler = (req, _res, next) => {
  const { origin, host } = req.headers;
  const site = req.headers['sec-fetch-site'];
  const isOther = origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`;
  const isFromOutside = site === 'cross-site' || site === 'same-site';
  if (READS.has(req.method) || (!isOther && !isFromOutside)) {
    next();
    return;
  }
  const from = String(origin ?? 'another site').slice(0, 100);
  next(
    new HttpProblem(
      'other-origin',
      `A page of ${from} may not change anything here. Do it in Rope Shelf itself.`,
    ),
  );
};

/** Deeper JSON than this is nothing that this program writes: racks nest eight deep. */
const DEEPEST = 100;

/** Half of a character that takes two (UTF-16): no file in UTF-8 holds it. */
const HALF = /\p{Surrogate}/u;

/**
 * Names that no member of a document has and that every object answers to: what reads a body by its class would take
 * the member for the class (CWE-1321).
 */
const isNameOfAll = (name: string): boolean => name === 'constructor' || name === '__proto__';
const hasNameOfAll = (value: unknown): boolean =>
  typeof value === 'object' &&
  value !== null &&
  !Buffer.isBuffer(value) &&
  Object.keys(value).some(isNameOfAll);

/** What lies directly in a value of JSON, the names of its members among it. */
function partsOf(value: unknown): unknown[] {
  if (typeof value !== 'object' || value === null || Buffer.isBuffer(value)) return [];
  return Array.isArray(value) ? (value as unknown[]) : Object.entries(value).flat();
}

/** Refuses bodies that are nested without end, and texts that no file could hold, before anything is done with them. */
export const shallowBody: RequestHandler = (req, _res, next) => {
  let level: unknown[] = [req.body];
  for (let depth = 0; level.length; depth++) {
    if (depth > DEEPEST) {
      next(new HttpProblem('not-valid', `The request is nested more than ${DEEPEST} deep.`));
      return;
    }
    if (level.some((value) => typeof value === 'string' && HALF.test(value))) {
      next(
        new HttpProblem('not-valid', 'The request holds half a character (a lone surrogate). Type it anew.'),
      );
      return;
    }
    if (level.some(hasNameOfAll)) {
      next(new HttpProblem('not-valid', 'Nothing in a request may be called “constructor” or “__proto__”.'));
      return;
    }
    level = level.flatMap(partsOf);
  }
  next();
};
