import type { MediaRef, Params, Preset, Session } from '../../core/index.ts';

/** An answer of the server that was not a success, in words for a person. `status` 0: no answer at all. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly body: Record<string, unknown> = {},
  ) {
    super(message);
  }
  /** the server or its database is away for the moment: trying again makes sense */
  get passing(): boolean {
    return this.status === 0 || this.status === 503 || this.status === 502 || this.status === 504;
  }
}

export const CLIENT = Math.random().toString(36).slice(2, 12);

async function call<T>(
  method: string,
  path: string,
  options: {
    json?: unknown;
    raw?: Blob | ArrayBuffer;
    headers?: Record<string, string>;
    keepalive?: boolean;
  } = {},
): Promise<T> {
  let r: Response;
  try {
    r = await fetch('/api' + path, {
      method,
      keepalive: options.keepalive,
      headers: {
        'X-Client': CLIENT,
        ...(options.json !== undefined ? { 'Content-Type': 'application/json' } : {}),
        ...options.headers,
      },
      body: options.json !== undefined ? JSON.stringify(options.json) : options.raw,
    });
  } catch {
    throw new ApiError(
      0,
      'The server does not answer. Is “npm start” still running? What you did is kept in this window and sent when it is back.',
    );
  }
  if (r.ok) return (r.status === 204 ? undefined : await r.json()) as T;
  const body = (await r.json().catch(() => ({}))) as Record<string, unknown>;
  throw new ApiError(
    r.status,
    typeof body.detail === 'string' ? body.detail : `The server answered ${r.status}.`,
    body,
  );
}

export interface SessionEntry {
  id: string;
  name: string;
  revision: number;
  tempo: number;
  sampleRate: number;
  trackCount: number;
  updatedAt: string;
}
export interface PresetEntry {
  id: string;
  kind: string;
  name: string;
  category: string;
  colour: string;
  pinned: boolean;
  version: number;
  parent: string | null;
  lastUsedAt: string | null;
  updatedAt: string;
  summary: {
    note: string;
    tags: string[];
    tracks: number;
    spares: string[];
    devices: { type: string; name: string; state: string }[];
  };
}
export interface PresetDetail extends PresetEntry {
  versions: { version: number; hash: string; createdAt: string }[];
  preset: Preset;
}
export interface Facets {
  categories: Facet[];
  tags: Facet[];
  kinds: Facet[];
}
export interface Facet {
  name: string;
  n: number;
}
export interface SessionUse {
  id: string;
  name: string;
  updatedAt: string;
  places: number;
  behind: number;
  oldest: number;
}
export interface UpdateSaid {
  id: string;
  name?: string;
  error?: string;
  updated?: number;
  taken?: number;
  kept?: number;
  conflicts?: string[];
  notes?: string[];
}
export interface DropEntry {
  id: string;
  preset: string;
  version: number;
  at: string;
  record: Record<string, unknown>;
}

const query = (o: Record<string, string | number | undefined | null>) => {
  const p = new URLSearchParams();
  for (const [k, v] of Object.entries(o)) if (v !== undefined && v !== null && v !== '') p.set(k, String(v));
  return p.size ? '?' + p.toString() : '';
};

export const api = {
  sessions: () => call<SessionEntry[]>('GET', '/sessions'),
  session: (id: string) =>
    call<{ id: string; revision: number; document: Session }>('GET', `/sessions/${id}`),
  createSession: (o: {
    name: string;
    tempo?: number;
    sampleRate?: number;
    bitDepth?: number;
    copyOf?: string;
    preset?: string;
  }) => call<{ id: string }>('POST', '/sessions', { json: o }),
  patchSession: (id: string, revision: number, ops: unknown[], keepalive = false) =>
    call<{ revision: number }>('PATCH', `/sessions/${id}`, {
      json: ops,
      headers: { 'If-Match': `"${revision}"`, 'Content-Type': 'application/json-patch+json' },
      keepalive,
    }),
  deleteSession: (id: string) => call<void>('DELETE', `/sessions/${id}`),
  restoreSession: (id: string) => call<void>('POST', `/sessions/${id}/restore`),
  importFile: (file: File) =>
    call<{ id: string; notes: string[] }>('POST', `/sessions/import${query({ name: file.name })}`, {
      raw: file,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  exportNotes: (id: string) => call<{ notes: string[] }>('GET', `/sessions/${id}/export/notes`),
  presets: (o: {
    q?: string;
    kind?: string;
    category?: string;
    tag?: string;
    pinned?: string;
    parent?: string;
    sort?: string;
    after?: string | null;
    limit?: number;
  }) => call<{ items: PresetEntry[]; next: string | null }>('GET', `/presets${query(o)}`),
  facets: () => call<Facets>('GET', '/presets/facets'),
  preset: (id: string) => call<PresetDetail>('GET', `/presets/${id}`),
  presetVersion: (id: string, v: number) => call<Preset>('GET', `/presets/${id}/versions/${v}`),
  createPreset: (preset: Preset) =>
    call<{ id: string; version: number }>('POST', '/presets', { json: { preset } }),
  addVersion: (id: string, based: number, preset: Preset) =>
    call<{ id: string; version: number }>('POST', `/presets/${id}/versions`, {
      json: { preset },
      headers: { 'If-Match': `"${based}"` },
    }),
  presetMeta: (id: string, o: { name?: string; category?: string; tags?: string[]; pinned?: boolean }) =>
    call<PresetEntry>('PATCH', `/presets/${id}`, { json: o }),
  deletePreset: (id: string) => call<void>('DELETE', `/presets/${id}`),
  restorePreset: (id: string) => call<void>('POST', `/presets/${id}/restore`),
  currentVersions: (ids: string[]) =>
    call<Record<string, { version: number; name: string }>>('POST', '/presets/current', { json: { ids } }),
  sessionsUsing: (id: string) =>
    call<{ version: number; sessions: SessionUse[] }>('GET', `/presets/${id}/sessions`),
  updateSessions: (id: string, sessions: string[], look: boolean) =>
    call<{ version: number; sessions: UpdateSaid[] }>('POST', `/presets/${id}/update`, {
      json: { sessions, look },
    }),
  presetUses: (id: string) =>
    call<{ id: string; session: string; name: string; version: number; at: string }[]>(
      'GET',
      `/presets/${id}/uses`,
    ),
  defaults: () => call<Record<string, { params?: Params; preset?: string }>>('GET', '/defaults'),
  setDefault: (name: string, value: { params?: Params; preset?: string }) =>
    call<void>('PUT', `/defaults/${name}`, { json: value }),
  clearDefault: (name: string) => call<void>('DELETE', `/defaults/${name}`),
  media: () => call<MediaRef[]>('GET', '/media'),
  upload: (file: File) =>
    call<MediaRef>('POST', `/media${query({ name: file.name })}`, {
      raw: file,
      headers: { 'Content-Type': 'audio/wav' },
    }),
  recordDrop: (o: { id: string; session: string; preset: string; version: number; record: object }) =>
    call<{ id: string }>('POST', '/drops', { json: o }),
  drops: (session: string) => call<DropEntry[]>('GET', `/drops/of/${session}`),
};
