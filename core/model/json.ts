import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/**
 * Canonical JSON: object keys sorted by code unit, no white space, undefined left out (RFC 8785's ordering
 * for the values that we store).
 */
export function canonicalJson(value: unknown): string {
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  if (Array.isArray(value)) {
    return '[' + value.map((v) => canonicalJson(v === undefined ? null : v)).join(',') + ']';
  }
  const o = value as Record<string, unknown>;
  const keys = Object.keys(o)
    .filter((k) => o[k] !== undefined)
    .sort();
  return '{' + keys.map((k) => JSON.stringify(k) + ':' + canonicalJson(o[k])).join(',') + '}';
}

/** sha-256 of bytes or of a text's UTF-8, as lower-case hex. */
export const sha256Hex = (data: Uint8Array | string): string =>
  bytesToHex(sha256(typeof data === 'string' ? utf8ToBytes(data) : data));

/** Content hash of any JSON value. */
export const hashOf = (value: unknown): string => sha256Hex(canonicalJson(value));

export const clone = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T;

export const same = (a: unknown, b: unknown): boolean => a === b || canonicalJson(a) === canonicalJson(b);

/**
 * A value that came anew, with everything in it that equals what is known already taken from there: so that steps and
 * copies of a long session hold what is different only. Members of lists are told by their `id`, others by their place.
 * @returns `known` itself where both are equal
 */
export function sharing<T>(known: unknown, fresh: T): T {
  if (known === fresh || typeof known !== 'object' || known === null) return fresh;
  if (Array.isArray(fresh)) return Array.isArray(known) ? (sharingList(known, fresh) as T) : fresh;
  if (!isObj(fresh) || !isObj(known)) return fresh;
  const keys = Object.keys(fresh);
  const out: Obj = {};
  for (const k of keys) put(out, k, sharing(own(known, k), fresh[k]));
  // the same keys in the same order: what is written of it stays the same, too
  const order = Object.keys(known);
  const isSame = order.length === keys.length && keys.every((k, i) => k === order[i] && out[k] === known[k]);
  return (isSame ? known : out) as T;
}

function sharingList(known: readonly unknown[], fresh: readonly unknown[]): readonly unknown[] {
  const byId = new Map(isKeyed(known) ? known.map((x) => [x.id, x]) : []);
  const partner = (x: unknown, i: number) =>
    isObj(x) && typeof x.id === 'string' && byId.size ? byId.get(x.id) : known[i];
  const out = fresh.map((x, i) => sharing(partner(x, i), x));
  return out.length === known.length && out.every((x, i) => x === known[i]) ? known : out;
}

export interface Conflict {
  path: string;
  base: unknown;
  mine: unknown;
  theirs: unknown;
}

export type Obj = Record<string, unknown>;
export const isObj = (v: unknown): v is Obj => typeof v === 'object' && v !== null && !Array.isArray(v);
/** What an object has itself, and not what every object answers to. */
const own = (of: Obj, key: string): unknown => (Object.hasOwn(of, key) ? of[key] : undefined);
/** Gives an object a member of any name: what is assigned to “__proto__” would be no member. */
function put(of: Obj, key: string, value: unknown): void {
  if (key !== '__proto__') of[key] = value;
  else Object.defineProperty(of, key, { value, enumerable: true, configurable: true, writable: true });
}
const isKeyed = (v: unknown): v is (Obj & { id: string })[] =>
  Array.isArray(v) && v.length > 0 && v.every((x) => isObj(x) && typeof x.id === 'string');

/**
 * Three-way merge of JSON documents. Arrays whose members carry an `id` are merged member by member; other
 * arrays are values. What only one side
 * changed is taken; where both changed the same value differently, `prefer` wins and the place is listed.
 * @returns the merged document (structure shared with the inputs) and the conflicts, with JSON pointers in
 * which array members are named by id
 */
export function merge3<T>(
  base: T,
  mine: T,
  theirs: T,
  prefer: 'mine' | 'theirs' = 'mine',
): { value: T; conflicts: Conflict[] } {
  const conflicts: Conflict[] = [];
  const value = walk(base, mine, theirs, '') as T;
  return { value, conflicts };

  function walk(b: unknown, m: unknown, t: unknown, path: string): unknown {
    if (m === t || b === t) return m;
    if (b === m) return t;
    if (same(m, t) || same(b, t)) return m;
    if (same(b, m)) return t;
    // an object that both sides made anew is merged as if it had been empty
    if (b === undefined && isObj(m) && isObj(t)) b = {};
    if (isObj(b) && isObj(m) && isObj(t)) {
      const out: Obj = {};
      for (const k of keyOrder(m, t)) {
        const v = walk(own(b, k), own(m, k), own(t, k), path + '/' + k);
        if (v !== undefined) put(out, k, v);
      }
      return out;
    }
    const lists = [b, m, t];
    if (
      lists.every((l) => Array.isArray(l)) &&
      lists.some(isKeyed) &&
      lists.every((l) => (l as unknown[]).length === 0 || isKeyed(l))
    ) {
      return walkKeyed(b as Keyed, m as Keyed, t as Keyed, path);
    }
    conflicts.push({ path, base: b, mine: m, theirs: t });
    return prefer === 'mine' ? m : t;
  }

  function walkKeyed(b: Keyed, m: Keyed, t: Keyed, path: string): unknown[] {
    const at = (l: Keyed, id: string) => l.find((x) => x.id === id);
    const members = new Map<string, unknown>();
    for (const id of new Set([...m, ...t].map((x) => x.id))) {
      const [ob, om, ot] = [at(b, id), at(m, id), at(t, id)];
      if (ob && (!om || !ot)) {
        // deleted on one side: gone, unless the other side changed it
        const other = om ?? ot;
        if (same(ob, other)) continue;
        conflicts.push({ path: path + '/' + id, base: ob, mine: om, theirs: ot });
        const kept = prefer === 'mine' ? om : ot;
        if (kept) members.set(id, kept);
      } else {
        members.set(id, om && ot ? walk(ob ?? {}, om, ot, path + '/' + id) : (om ?? ot));
      }
    }
    // order: the side that reordered leads; members only the other side has are put after the neighbour they
    // followed there
    const ids = (l: Keyed) => l.map((x) => x.id);
    const shared = (l: Keyed, k: Keyed) => ids(l).filter((id) => ids(k).includes(id));
    const mineMoved = !same(shared(m, b), shared(b, m));
    const [lead, other] = mineMoved ? [m, t] : [t, m];
    const order = ids(lead).filter((id) => members.has(id));
    other.forEach((x, i) => {
      if (!members.has(x.id) || order.includes(x.id)) return;
      const before = other
        .slice(0, i)
        .reverse()
        .find((y) => order.includes(y.id));
      order.splice(before ? order.indexOf(before.id) + 1 : 0, 0, x.id);
    });
    return order.map((id) => members.get(id));
  }
}

type Keyed = (Obj & { id: string })[];

/** Keys in mine's order, then what only theirs has: so that undoing a merge gives back the same bytes. */
function keyOrder(m: Obj, t: Obj): string[] {
  const keys = Object.keys(m);
  for (const k of Object.keys(t)) if (!(k in m)) keys.push(k);
  return keys;
}
