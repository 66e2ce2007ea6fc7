import { clone } from '../../model/json.ts';
import type { Output, Track } from '../../model/types.ts';
import { explainAddress } from '../adaptations/midi.ts';
import { explainPort } from '../adaptations/port.ts';
import type { Part, Putting } from './part.ts';

const NONE: Output = { kind: 'none' };
const toTrack = (track: string | null): Output => (track ? { kind: 'track', track } : { ...NONE });

/** Where a preset's line goes in this session. */
function placed(t: Track, c: Putting): Output {
  const out = t.output;
  // the master of a whole session goes to no other track
  if (t.role === 'master' && !c.asBus) return out.kind === 'hardware' ? out : { ...NONE };
  switch (out.kind) {
    case 'track':
      return toTrack(c.end(out.track));
    case 'hardware': {
      const port = c.adapted.port('output', out.port);
      return port ? { kind: 'hardware', port } : c.home;
    }
    case 'midi':
      return { ...out, ...c.adapted.address(out) };
    case 'none':
      return c.has('output') && !c.asBus ? { ...NONE } : c.home;
  }
}

const text = (o: Output): string => (o.kind === 'hardware' ? o.port : o.kind);

export const output: Part = {
  id: 'output',
  label: 'Output',
  help: '',
  section: 'routing',
  duplicated: true,

  end: {
    kind: 'output',
    leads: (t) => (t.output.kind === 'track' ? [t.output.track] : []),
    fits: (t) => t.role === 'bus' || t.role === 'return' || t.role === 'folder',
    canMake: true,
    toMaster: true,
    open: { label: 'No output', onto: 'Keep the line’s own output' },
  },

  take(from, into, c) {
    into.output =
      from.output.kind === 'track' ? toTrack(c.tie('output', from.output.track)) : clone(from.output);
  },

  put(from, into, c) {
    into.output = placed(from, c);
  },

  putOnto(from, into, c) {
    if (c.before.role === 'master' || from.output.kind !== 'track') return;
    const to = c.end(from.output.track);
    if (to) into.output = toTrack(to);
  },

  report(want, found, c) {
    if (!c.has('output') || c.spare) return;
    const [path, label] = [`${want.id}/output`, `${want.name} · output`];
    const [was, is] = [want.output, found?.output];
    const own = !c.whole && was.kind === 'track' && c.isOpen(was.track);
    if (own) c.leftOut(path, label, c.nameOf(was.track), 'the line keeps its own output');
    else if (was.kind === 'track') {
      c.tie(path, label, was.track, is?.kind === 'track' ? is.track : null);
    } else if (c.whole && was.kind === 'midi') {
      explainAddress('output', want, found, c);
    } else if (c.whole && want.role !== 'master') {
      c.row(path, label, was, is, text, explainPort(c.plan, 'output', was, is));
    }
  },

  differ(a, b, c) {
    const word = (t: Track, name: (id: string) => string) =>
      t.output.kind === 'track' ? name(t.output.track) : t.output.kind;
    c.value('output', word(a, c.nameA), word(b, c.nameB), String);
  },

  duplicate(copy, into) {
    into.output = copy.output;
  },

  copyTo(from, to, c): Partial<Track> {
    const out = from.output;
    const may = out.kind === 'track' && to.role !== 'master' && c.open(out.track, false);
    return may ? { output: out } : {};
  },
};
