import type { ErrorRequestHandler, RequestHandler, Response } from 'express';
import { PROBLEMS, type ProblemBody, type ProblemCode } from '../../contract/index.ts';
import { DropRefused, FormatError, type Problem } from '../../core/index.ts';
import { NotAllowed } from '../accounts/access.ts';
import { log } from '../db/log.ts';

/** An error as application/problem+json (RFC 9457): a stable code; names the thing, the field and the way out. */
export class HttpProblem extends Error {
  readonly status: number;
  constructor(
    readonly code: ProblemCode,
    readonly detail: string,
    readonly errors: { field: string; message: string }[] = [],
    readonly more: Pick<ProblemBody, 'revision' | 'version' | 'received'> = {},
  ) {
    super(detail);
    this.name = 'HttpProblem';
    this.status = PROBLEMS[code].status;
  }
}

export const notFound = (what: string) =>
  new HttpProblem('not-found', `${what} is not there (any more). Go back to the list and choose again.`);

export const invalid = (what: string, problems: Problem[]) =>
  new HttpProblem(
    'breaks-a-rule',
    `${what}: ${problems[0].message}`,
    problems.slice(0, 50).map((p) => ({ field: p.path, message: p.message })),
  );

function sendProblem(res: Response, p: HttpProblem): void {
  const body: ProblemBody = {
    type: 'about:blank',
    title: PROBLEMS[p.code].title,
    status: p.status,
    code: p.code,
    detail: p.detail,
    ...(p.errors.length ? { errors: p.errors } : {}),
    ...p.more,
  };
  if (p.status === 503) res.setHeader('Retry-After', '2');
  res.status(p.status).type('application/problem+json').send(JSON.stringify(body));
}

export const unknownRoute: RequestHandler = (req, res) =>
  sendProblem(res, new HttpProblem('not-found', `There is nothing at ${req.method} ${req.path}.`));

/** What MariaDB's client and the sockets below it say when the database is away. */
const GONE = [
  'ECONNREFUSED',
  'PROTOCOL_CONNECTION_LOST',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'Connection lost',
  'Pool is closed',
  'closed state',
  'server has gone away',
  'Connection is not established',
];
const DB_GONE = new RegExp(GONE.join('|'), 'i');

/** What the body's parser says of what it can't read. */
const SENT_WRONG: Partial<Record<string, string>> = {
  'entity.parse.failed': 'The request is not readable JSON.',
  'charset.unsupported': 'The request is written in characters that are not known here: send UTF-8.',
  'encoding.unsupported':
    'The request is packed in a way that is not known here: send it unpacked, or as gzip.',
};
/** Other errors of the parser and the router that a client causes: a path or a packed body that is not whole. */
const isClientsFault = (e: { status?: number }) =>
  e.status !== undefined && e.status >= 400 && e.status < 500;

/**
 * Errors of MariaDB that say that a value does not fit its column: too long, no text of the character set, out
 * of range, null, not JSON, twice.
 */
const WRONG_DATA = new Set([1406, 1366, 1264, 1048, 1292, 1265, 3988, 4025, 1062, 22032]);

/** Errors of MariaDB that say that it has no room: disk full, table full. */
const DISK_FULL = new Set([1021, 1114]);

/** What an error of the core, of the body's parser or of the database means to the other side. */
function problemOf(err: unknown): HttpProblem | null {
  if (err instanceof HttpProblem) return err;
  if (err instanceof FormatError) {
    return new HttpProblem('file-not-readable', err.message, [{ field: err.place, message: err.what }]);
  }
  if (err instanceof NotAllowed) return new HttpProblem('not-yours', notAllowed(err));
  if (err instanceof DropRefused) return new HttpProblem('drop-refused', err.message);
  const e = err as Error & { status?: number; type?: string; code?: string; errno?: number };
  if (e.type === 'entity.too.large') {
    return new HttpProblem(
      'too-large',
      'More than 300 MB can’t be sent at once. Send it in pieces: /api/uploads.',
    );
  }
  const sent = SENT_WRONG[e.type ?? ''] ?? (isClientsFault(e) ? 'The request is not readable.' : null);
  if (sent) return new HttpProblem('not-readable', sent);
  if (WRONG_DATA.has(e.errno ?? 0)) {
    const what = e.message.replace(/ for column .*$/, '').slice(0, 200);
    return new HttpProblem('not-valid', `Something in the request can't be kept: ${what}.`);
  }
  if (DISK_FULL.has(e.errno ?? 0)) {
    return new HttpProblem(
      'disk-full',
      'The disk of the database is full. Make room on it: the change is kept here and sent again by itself.',
    );
  }
  if (DB_GONE.test(`${e.code ?? ''} ${e.message}`)) {
    return new HttpProblem(
      'database-away',
      'The database does not answer at the moment. Nothing is lost: the change is kept here and sent again.',
    );
  }
  return null;
}

/** What somebody may not do with what is shared, and the way out. */
function notAllowed({ owner, right }: NotAllowed): string {
  if (right === 'edit') {
    return `This session is ${owner.name}’s. You can change what is in it; this, only ${owner.name} can do.`;
  }
  const way = 'Put a copy on your own shelf, and do it there';
  return right === 'add'
    ? `This lies on the shelf of ${owner.name}: you can read it and add versions, and no more. ${way}.`
    : `This lies on the shelf of ${owner.name}, which you can read. ${way}, or ask ${owner.name} for more.`;
}

export const problems: ErrorRequestHandler = (err: unknown, req, res, next) => {
  if (res.headersSent) {
    next(err);
    return;
  }
  const known = problemOf(err);
  if (!known) log.error({ err, method: req.method, path: req.path }, 'a request failed');
  const unknown =
    'Something went wrong on the server. What you did is still here; try it again, and look at the server’s window for the cause.';
  sendProblem(res, known ?? new HttpProblem('internal', unknown));
};
