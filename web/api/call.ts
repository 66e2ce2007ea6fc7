import { isPassing, type LocalCode, type ProblemBody, type ProblemCode } from '../../contract/index.ts';
import { signInNeeded } from './signing.ts';

/** An answer of the server that was not a success, in words for a person, with its stable code. */
export class ApiError extends Error {
  constructor(
    readonly code: ProblemCode | LocalCode,
    message: string,
    readonly body: Partial<ProblemBody> = {},
  ) {
    super(message);
    this.name = 'ApiError';
  }
  /** the server or its database is away for the moment: trying again makes sense */
  get passing(): boolean {
    return isPassing(this.code);
  }
}

export const CLIENT = Math.random().toString(36).slice(2, 12);

interface CallOptions {
  json?: unknown;
  raw?: Blob | ArrayBuffer;
  headers?: Record<string, string>;
  keepalive?: boolean;
  /** gives the request up */
  signal?: AbortSignal;
}

/** Asks the server for something. @throws ApiError */
export async function call<T>(method: string, path: string, options: CallOptions = {}): Promise<T> {
  const r = await answer(method, path, options);
  return (r.status === 204 ? undefined : await r.json()) as T;
}

/** Asks the server for a file. @throws ApiError */
export async function callForFile(method: string, path: string, options: CallOptions = {}) {
  const r = await answer(method, path, options);
  const [, plain = 'file'] = /filename="([^"]+)"/.exec(r.headers.get('Content-Disposition') ?? '') ?? [];
  return { blob: await r.blob(), name: plain };
}

async function answer(method: string, path: string, options: CallOptions): Promise<Response> {
  let r: Response;
  try {
    r = await fetch('/api' + path, {
      method,
      keepalive: options.keepalive,
      signal: options.signal,
      headers: {
        // what is only asked for says nothing of the window: the page may have asked for it already
        ...(method === 'GET' ? {} : { 'X-Client': CLIENT }),
        ...(options.json !== undefined ? { 'Content-Type': 'application/json' } : {}),
        ...options.headers,
      },
      body: options.json !== undefined ? JSON.stringify(options.json) : options.raw,
    });
  } catch {
    throw new ApiError(
      'no-answer',
      'The server does not answer. If Rope Shelf was ended on this computer, start it again. What you did is kept in this window and sent when it is back.',
    );
  }
  if (r.ok) return r;
  const body = (await r.json().catch(() => ({}))) as Partial<ProblemBody>;
  if (body.code === 'sign-in-needed') signInNeeded.value = true;
  throw new ApiError(codeOf(r.status, body), body.detail ?? `The server answered ${r.status}.`, body);
}

/** What stands between may answer for the server, without a code: 502 to 504 mean that it is away. */
function codeOf(status: number, body: Partial<ProblemBody>): ProblemCode | LocalCode {
  return body.code ?? (status >= 502 && status <= 504 ? 'no-answer' : 'unknown');
}

/** Fields of a query that may be left blank. */
export type Blank<T> = { [K in keyof T]: T[K] | '' };

/** Fields as the end of a path, without those that are blank. */
export const query = (o: object) => {
  const p = new URLSearchParams();
  for (const [k, v] of Object.entries(o)) if (v !== undefined && v !== null && v !== '') p.set(k, String(v));
  return p.size ? '?' + p.toString() : '';
};
