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
