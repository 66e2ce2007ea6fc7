/**
 * Every error that the server can answer with: its stable code, the HTTP status (RFC 9110) and a title. Both
 * sides match on the code; sentences are for people and may change.
 */
export const PROBLEMS = {
  'not-readable': { status: 400, title: 'Not readable' },
  'not-valid': { status: 400, title: 'Not valid' },
  empty: { status: 400, title: 'Empty' },
  'sign-in-needed': { status: 401, title: 'Sign in' },
  'sign-in-refused': { status: 401, title: 'Not signed in' },
  'other-origin': { status: 403, title: 'Another origin' },
  'not-yours': { status: 403, title: 'Not yours' },
  'not-found': { status: 404, title: 'Not found' },
  exists: { status: 409, title: 'Exists' },
  'nothing-changed': { status: 409, title: 'Nothing changed' },
  'drop-refused': { status: 409, title: 'Drop refused' },
  'source-missing': { status: 409, title: 'Source missing' },
  'upload-place': { status: 409, title: 'Another piece is next' },
  'changed-elsewhere': { status: 412, title: 'Changed elsewhere' },
  'too-large': { status: 413, title: 'Too large' },
  'wrong-host': { status: 421, title: 'Not this server' },
  'breaks-a-rule': { status: 422, title: 'Not valid' },
  'patch-not-possible': { status: 422, title: 'Patch not possible' },
  'file-not-readable': { status: 422, title: 'File not readable' },
  'if-match-missing': { status: 428, title: 'If-Match is missing' },
  'too-many-tries': { status: 429, title: 'Too many tries' },
  internal: { status: 500, title: 'Internal error' },
  'database-away': { status: 503, title: 'Database not reachable' },
  'disk-full': { status: 507, title: 'Disk full' },
} as const;

export type ProblemCode = keyof typeof PROBLEMS;

/** Codes that only the browser's side gives: no answer came, or one that is not this server's. */
export type LocalCode = 'no-answer' | 'unknown';

/** An error as it travels: application/problem+json (RFC 9457). */
export interface ProblemBody {
  type: string;
  title: string;
  status: number;
  code: ProblemCode;
  /** what happened and the way out, for a person */
  detail: string;
  errors?: { field: string; message: string }[];
  /** of “changed elsewhere”: what it stands at now */
  revision?: number;
  version?: number;
  /** of “another piece is next”: bytes that are there */
  received?: number;
}

const PASSING = new Set<ProblemCode | LocalCode>([
  'no-answer',
  'database-away',
  'disk-full',
  'sign-in-needed',
]);

/** Trying again later makes sense: the server or its database is away, the disk is full, somebody has to sign in. */
export const isPassing = (code: ProblemCode | LocalCode): boolean => PASSING.has(code);
