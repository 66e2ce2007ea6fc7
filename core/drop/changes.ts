import { DEVICE_TYPES } from '../devices/index.ts';
import { positionText } from '../hardware/positions.ts';
import type { Unit, UnitUse } from '../model/hardware.ts';
import { clone, isObj, same, type Obj } from '../model/json.ts';
import { formatDb, formatPan, formatValue } from '../model/units.ts';
import type { ParamValue, Slot } from '../model/types.ts';
import type { Form } from './types.ts';

/** One difference between two forms, with the place where it stands; members of lists are named by id. */
export interface Change {
  path: string;
  label: string;
  kind: 'value' | 'added' | 'removed' | 'moved';
  from: string;
  to: string;
}

type Keyed = (Obj & { id: string; name?: string })[];
const isKeyed = (v: unknown): v is Keyed =>
  Array.isArray(v) && v.every((x) => isObj(x) && typeof x.id === 'string');

/** What the second form has otherwise than the first, value by value. */
export function changesOf(a: Form, b: Form): Change[] {
  const out: Change[] = [];
  walk(a, b, '', []);
  return out;

  function walk(x: unknown, y: unknown, path: string, trail: unknown[]): void {
    if (x === y || same(x, y)) return;
    if (isKeyed(x) && isKeyed(y) && (x.length || y.length)) {
      const [px, py] = [new Map(x.map((m) => [m.id, m])), new Map(y.map((m) => [m.id, m]))];
      for (const m of x) {
        if (!py.has(m.id)) {
          out.push({
            path: `${path}/${m.id}`,
            label: labelOf(`${path}/${m.id}`, [...trail, m]),
            kind: 'removed',
            from: 'there',
            to: '—',
          });
        }
      }
      for (const m of y) {
        const was = px.get(m.id);
        if (was) walk(was, m, `${path}/${m.id}`, [...trail, m]);
        else {
          out.push({
            path: `${path}/${m.id}`,
            label: labelOf(`${path}/${m.id}`, [...trail, m]),
            kind: 'added',
            from: '—',
            to: 'there',
          });
        }
      }
      const order = (l: Keyed, other: Map<string, unknown>) =>
        l.filter((m) => other.has(m.id)).map((m) => m.id);
      if (!same(order(x, py), order(y, px))) {
        out.push({
          path,
          label: labelOf(path, trail) + 'order',
          kind: 'moved',
          from: order(x, py)
            .map((i) => nameOf(px.get(i)!))
            .join(' → '),
          to: order(y, px)
            .map((i) => nameOf(py.get(i)!))
            .join(' → '),
        });
      }
    } else if (isObj(x) && isObj(y) && !LEAVES.test(path)) {
      for (const k of new Set([...Object.keys(x), ...Object.keys(y)])) {
        walk(x[k], y[k], `${path}/${k}`, trail);
      }
    } else {
      out.push({
        path,
        label: labelOf(path, trail),
        kind: 'value',
        from: textAt(path, x, trail),
        to: textAt(path, y, trail),
      });
    }
  }
}

/** Objects that are one value to a person. */
const LEAVES = /\/(key|blend|foreign|unit|measured|line)$/;
const nameOf = (m: Obj): string => {
  if (typeof m.name === 'string') return m.name;
  if (isObj(m.unit) && typeof m.unit.name === 'string') return m.unit.name;
  if (typeof m.param === 'string') return `tie to ${m.param}`;
  return 'send';
};

/** "Close and warm · Threshold" for a place; `trail`: the members of lists along it. */
export function labelOf(path: string, trail: unknown[]): string {
  const names = (trail as Obj[]).map(nameOf);
  const last = path.split('/').at(-1)!;
  const member = (trail.at(-1) as Obj | undefined)?.id === last;
  if (member) return names.join(' · ');
  const d = [...trail].reverse().find((m) => typeof (m as Slot).kind === 'string') as Slot | undefined;
  const word = wordFor(path, last, d, trail);
  return [
    ...names,
    ...(last === 'chain' || last === 'sends' || last === 'strands' || last === 'handles' || last === 'ties'
      ? ['']
      : [word]),
  ].join(' · ');
}
function wordFor(path: string, last: string, d: Slot | undefined, trail: unknown[]): string {
  if (/\/params\//.test(path) && d?.kind === 'device') return DEVICE_TYPES[d.type]?.byId[last]?.label ?? last;
  if (/\/positions\//.test(path)) return controlIn(trail, last)?.label ?? last;
  return WORDS[last] ?? last;
}
const controlIn = (trail: unknown[], id: string) =>
  (trail.at(-1) as Partial<UnitUse> | undefined)?.unit?.panel.find((c) => c.id === id);

const WORDS: Record<string, string> = {
  cc: 'controller',
  panMode: 'pan mode',
  to: 'where to',
  soloSafe: 'solo safe',
  polarity: 'polarity',
  key: 'key',
  blend: 'blend',
};

/** A value of a form in words with its unit. */
export function textAt(path: string, v: unknown, trail: unknown[]): string {
  if (v === undefined || v === null) return '—';
  const last = path.split('/').at(-1)!;
  const d = [...trail].reverse().find((m) => typeof (m as Slot).kind === 'string') as Slot | undefined;
  if (/\/params\//.test(path) && d?.kind === 'device') {
    const ps = DEVICE_TYPES[d.type]?.byId[last];
    if (ps) return formatValue(ps, v as ParamValue);
  }
  if (last === 'level' && typeof v === 'number') return formatDb(v);
  if (last === 'pan' && typeof v === 'number') return formatPan(v);
  if (last === 'polarity') return v ? 'turned over' : 'as is';
  if (last === 'key') {
    return (v as { kind: string }).kind === 'own'
      ? 'own input'
      : `from another line, ${(v as { tap?: string }).tap ?? ''}-fader`;
  }
  if (last === 'blend') {
    const b = v as { mode: string; position: number };
    return b.mode === 'off'
      ? 'off'
      : `${b.mode === 'power' ? 'equal power' : 'linear'}, ${Math.round(b.position * 10) / 10} %`;
  }
  if (last === 'foreign') return 'its own state';
  if (last === 'unit') return (v as Unit).name;
  if (last === 'measured') return 'measured';
  if (/\/positions\//.test(path) && typeof v === 'number') return textOfPosition(trail, last, v);
  if (typeof v === 'boolean') return v ? 'on' : 'off';
  if (typeof v === 'number') return `${Math.round(v * 1000) / 1000}${last === 'value' ? ' %' : ''}`;
  return typeof v === 'string' ? v || '—' : 'there';
}

function textOfPosition(trail: unknown[], id: string, position: number): string {
  const control = controlIn(trail, id);
  return control ? positionText(control, position) : String(position);
}

/** What stands at a path, and the members of lists along it. */
export function placeIn(form: Form, path: string): { value: unknown; trail: unknown[] } {
  const trail: unknown[] = [];
  let value: unknown = form;
  for (const k of path.split('/').slice(1)) {
    if (Array.isArray(value)) {
      value = (value as Keyed).find((m) => m.id === k);
      if (value) trail.push(value);
    } else value = isObj(value) ? value[k] : undefined;
  }
  return { value, trail };
}

/**
 * The form with one place as it is in another; a member that the other lacks goes, one that only the other
 * has comes in where it stood there.
 */
export function withValueOf(form: Form, path: string, source: Form): Form {
  const keys = path.split('/').slice(1);
  const walk = (x: unknown, y: unknown, i: number): unknown => {
    if (i === keys.length) {
      if (isKeyed(x) && isKeyed(y)) {
        const at = new Map(y.map((m, k) => [m.id, k]));
        const shared = x.filter((m) => at.has(m.id)).sort((p, q) => at.get(p.id)! - at.get(q.id)!);
        let k = 0;
        return x.map((m) => (at.has(m.id) ? shared[k++] : m));
      }
      return y === undefined ? undefined : clone(y);
    }
    const k = keys[i];
    if (isKeyed(x)) {
      const from = isKeyed(y) ? y.find((m) => m.id === k) : undefined;
      const at = x.findIndex((m) => m.id === k);
      if (at >= 0) {
        const v = walk(x[at], from, i + 1);
        return v === undefined ? x.filter((m) => m.id !== k) : x.map((m) => (m.id === k ? v : m));
      }
      if (!from || !isKeyed(y)) return x;
      const before = y
        .slice(0, y.indexOf(from))
        .reverse()
        .find((m) => x.some((z) => z.id === m.id));
      const place = before ? x.findIndex((m) => m.id === before.id) + 1 : 0;
      return [...x.slice(0, place), clone(from), ...x.slice(place)];
    }
    if (!isObj(x)) return x;
    const v = walk(x[k], isObj(y) ? y[k] : undefined, i + 1);
    const out = { ...x };
    if (v === undefined) delete out[k];
    else out[k] = v;
    return out;
  };
  return walk(form, source, 0) as Form;
}
