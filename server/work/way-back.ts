import jsonpatch, { type Operation } from 'fast-json-patch';
import { clone, type Session } from '../../core/index.ts';

/**
 * A document with a change (JSON Patch, RFC 6902: add, remove and replace) made to it, and the change that takes it
 * back again. The document itself stays as it is, and what the change does not touch is shared with it: a long session
 * is not copied for one value.
 * @throws JsonPatchError when the change does not fit
 */
export function withWayBack(
  document: Session,
  ops: readonly Operation[],
): { next: Session; back: Operation[] } {
  let next = document;
  const own = new Set<object>();
  const back: Operation[] = [];
  ops.forEach((op, index) => {
    const inverse = inverseOf(next, op);
    next = copiedAlong(next, op.path, own);
    // what is put in may be changed by the next operation: the change itself is kept as it came
    next = jsonpatch.applyOperation(next, clone(op), true, true, true, index).newDocument;
    back.unshift(inverse);
  });
  return { next, back };
}

/**
 * The document with everything on the way to a place copied, each thing once, so that a change there changes nothing
 * else. A way that leads nowhere is copied as far as it goes.
 * @param own what was copied already, added to
 */
function copiedAlong(document: Session, path: string, own: Set<object>): Session {
  const copied = <T extends object>(value: T): T => {
    if (own.has(value)) return value;
    const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...value }) as T;
    own.add(copy);
    return copy;
  };
  const root = copied(document);
  let at = root as unknown as Record<string, unknown>;
  for (const token of path.split('/').slice(1, -1).map(jsonpatch.unescapePathComponent)) {
    const child = Object.hasOwn(at, token) ? at[token] : null;
    if (typeof child !== 'object' || child === null) break;
    at[token] = copied(child);
    at = at[token] as Record<string, unknown>;
  }
  return root;
}

/** What takes one operation back, seen from before it. */
function inverseOf(document: Session, op: Operation): Operation {
  const { path } = op;
  const valueAt = (at: string): unknown => clone(jsonpatch.getValueByPointer(document, at) ?? null);
  if (path === '') return { op: 'replace', path, value: clone(document) };
  if (op.op === 'remove') return { op: 'add', path, value: valueAt(path) };
  if (op.op === 'replace') return { op: 'replace', path, value: valueAt(path) };
  const cut = path.lastIndexOf('/');
  const [around, key] = [path.slice(0, cut), path.slice(cut + 1)];
  const parent: unknown = parentOf(document, around);
  if (Array.isArray(parent)) {
    return { op: 'remove', path: `${around}/${key === '-' ? parent.length : key}` };
  }
  const isObject = typeof parent === 'object' && parent !== null;
  const isThere = isObject && Object.hasOwn(parent, jsonpatch.unescapePathComponent(key));
  return isThere ? { op: 'replace', path, value: valueAt(path) } : { op: 'remove', path };
}

/** What a path leads to; nothing where it leads nowhere, which applying the change refuses with its own words. */
function parentOf(document: Session, path: string): unknown {
  try {
    return jsonpatch.getValueByPointer(document, path) as unknown;
  } catch {
    return undefined;
  }
}
