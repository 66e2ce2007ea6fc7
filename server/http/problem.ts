import type { ErrorRequestHandler, RequestHandler, Response } from 'express';
import { DropRefused, FormatError, type Problem } from '../../core/index.ts';

/** An error as application/problem+json (RFC 9457): names the thing, the field and the way out. */
export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors: { field: string; message: string }[] = [],
    readonly more: Record<string, unknown> = {},
  ) {
    super(detail);
    this.name = 'HttpProblem';
  }
}

export const notFound = (what: string) =>
  new HttpProblem(404, 'Not found', `${what} is not there (any more). Go back to the list and choose again.`);

export const invalid = (what: string, problems: Problem[]) =>
  new HttpProblem(
    422,
    'Not valid',
    `${what}: ${problems[0].message}`,
    problems.slice(0, 50).map((p) => ({ field: p.path, message: p.message })),
  );

export function sendProblem(res: Response, p: HttpProblem): void {
  if (p.status === 503) res.setHeader('Retry-After', '2');
  res
    .status(p.status)
    .type('application/problem+json')
    .send(
      JSON.stringify({
        type: 'about:blank',
        title: p.title,
        status: p.status,
        detail: p.detail,
        ...(p.errors.length ? { errors: p.errors } : {}),
        ...p.more,
      }),
    );
}

export const unknownRoute: RequestHandler = (req, res) =>
  sendProblem(res, new HttpProblem(404, 'Not found', `There is nothing at ${req.method} ${req.path}.`));

const DB_GONE =
  /ECONNREFUSED|PROTOCOL_CONNECTION_LOST|ECONNRESET|EPIPE|ETIMEDOUT|Connection lost|Pool is closed|closed state|server has gone away|Connection is not established/i;

export const problems: ErrorRequestHandler = (err: unknown, _req, res, next) => {
  if (res.headersSent) {
    next(err);
    return;
  }
  const e = err as Error & { status?: number; type?: string; code?: string };
  if (err instanceof HttpProblem) {
    sendProblem(res, err);
    return;
  }
  if (err instanceof FormatError) {
    sendProblem(
      res,
      new HttpProblem(422, 'File not readable', e.message, [{ field: err.place, message: err.what }]),
    );
    return;
  }
  if (err instanceof DropRefused) {
    sendProblem(res, new HttpProblem(409, 'Drop refused', e.message));
    return;
  }
  if (e.type === 'entity.too.large') {
    sendProblem(
      res,
      new HttpProblem(413, 'Too large', 'This file is larger than 300 MB. Split it or make it shorter.'),
    );
    return;
  }
  if (e.type === 'entity.parse.failed' || (e.status === 400 && e.type)) {
    sendProblem(res, new HttpProblem(400, 'Not readable', 'The request is not readable JSON.'));
    return;
  }
  if (DB_GONE.test(`${e.code ?? ''} ${e.message}`)) {
    sendProblem(
      res,
      new HttpProblem(
        503,
        'Database not reachable',
        'The database does not answer at the moment. Nothing is lost: the change is kept here and sent again.',
      ),
    );
    return;
  }
  console.error(err);
  sendProblem(
    res,
    new HttpProblem(
      500,
      'Internal error',
      'Something went wrong on the server. What you did is still here; try it again, and look at the server’s window for the cause.',
    ),
  );
};
