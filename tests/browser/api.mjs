// The server beside the interface, for what a test prepares and what it looks up afterwards.
import assert from 'node:assert/strict';

const base = process.env.BASE;

/** Asks the server for something that must succeed. */
export async function api(method, path, body, headers = {}) {
  const r = await fetch(`${base}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', ...headers },
    body: body && JSON.stringify(body),
  });
  assert.ok(r.ok, `${method} ${path}: ${r.status} ${await r.clone().text()}`);
  return r.status === 204 ? null : r.json();
}
/** A copy of a session under a name of its own; its id. */
export const copy = async (name, of) => (await api('POST', '/sessions', { name, copyOf: of })).id;
/** A session as the server has it. */
export const document = async (id) => (await api('GET', `/sessions/${id}`)).document;
/** Changes a session as another window would. @param patch JSON Patch, made from the document as it is */
export async function changed(id, patch) {
  const { revision, document: was } = await api('GET', `/sessions/${id}`);
  const headers = { 'Content-Type': 'application/json-patch+json', 'If-Match': `"${revision}"` };
  await api('PATCH', `/sessions/${id}`, patch(was), headers);
}
/** Changes the lines of a session. */
export const withTracks = (id, change) =>
  changed(id, ({ tracks }) => [{ op: 'replace', path: '/tracks', value: change(tracks) }]);
