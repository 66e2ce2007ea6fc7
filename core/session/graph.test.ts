import fc from 'fast-check';
import { pathThrough, signalGraph, type Session } from '../index.ts';
import { device, send, sessionWith } from '../../tests/support/build.ts';
import { anySession } from '../../tests/support/generate.ts';
import { unit } from '../../tests/support/studio.ts';

const to = (track: string) => ({ kind: 'track' as const, track });
const crew = (): Session =>
  sessionWith([
    { id: 'kick', name: 'Kick', output: { kind: 'none' }, input: { kind: 'hardware', port: 'In 1' } },
    { id: 'box', name: 'Box', output: to('bed'), sends: [send('room', -12, { tap: 'pre' })] },
    {
      id: 'bed',
      name: 'Bed',
      role: 'bus',
      chain: [device('compressor', {}, { id: 'duck', key: { kind: 'track', track: 'kick', tap: 'post' } })],
    },
    { id: 'room', name: 'Room', role: 'return' },
  ]);
const flow = (s: Session, id: string) => signalGraph(s).flows.find((f) => f.id === id)!;

test('tracks, hardware and speakers are nodes; outputs, sends, keys and inputs lead between them', () => {
  const s = crew();
  const g = signalGraph(s);
  const master = s.tracks.at(-1)!.id;
  expect(g.nodes.map((n) => [n.kind, n.label])).toEqual([
    ['track', 'Kick'],
    ['track', 'Box'],
    ['track', 'Bed'],
    ['track', 'Room'],
    ['track', 'Master'],
    ['hardware', 'In 1'],
    ['speakers', 'Speakers'],
  ]);
  expect(g.flows.map((f) => [f.kind, f.from, f.to])).toEqual([
    ['input', 'in:In 1', 'kick'],
    ['output', 'box', 'bed'],
    ['send', 'box', 'room'],
    ['output', 'bed', master],
    ['key', 'kick', 'bed'],
    ['output', 'room', master],
    ['output', master, 'speakers'],
  ]);
});
test('what is muted, off, closed or inactive carries nothing', () => {
  const s = crew();
  const sendId = s.tracks[1].sends[0].id;
  expect(flow(s, sendId).live).toBe(true);
  s.tracks[1].sends[0].on = false;
  expect(flow(s, sendId).live).toBe(false);
  s.tracks[1].sends[0] = { ...s.tracks[1].sends[0], on: true, level: -144 };
  expect(flow(s, sendId).live).toBe(false);
  s.tracks[1].mute = true;
  expect(flow(s, 'box/output').live).toBe(false);
  s.tracks[0].state = 'inactive';
  expect(flow(s, 'duck/key').live).toBe(false);
});
test('a path is everything that feeds a line and that it feeds', () => {
  const s = crew();
  const p = pathThrough(signalGraph(s), 'bed');
  expect([...p.nodes].sort()).toEqual(
    ['bed', 'box', 'in:In 1', 'kick', 'speakers', s.tracks.at(-1)!.id].sort(),
  );
  expect(p.flows.has('duck/key') && p.flows.has('box/output')).toBe(true);
  expect([...p.nodes]).not.toContain('room');
});
test('a circle is found, and only what lies on it', () => {
  const s = crew();
  s.tracks[3].sends = [send('bed', -10, { id: 'back' })];
  s.tracks[2].sends = [send('room', -10, { id: 'there' })];
  expect([...signalGraph(s).loops].sort()).toEqual(['back', 'there']);
  expect(signalGraph(crew()).loops.size).toBe(0);
});
test('a line that reaches a bus by its output and by a send sounds twice; a wet return beside the dry way is meant, and so is a send that is off', () => {
  const s = crew();
  expect(signalGraph(s).doubles.size).toBe(0);
  s.tracks.splice(4, 0, { ...s.tracks[2], id: 'twin', name: 'Crush bus', chain: [] });
  s.tracks[1].sends.push(send('twin', -6, { id: 'again' }));
  expect([...signalGraph(s).doubles].sort()).toEqual(['again', 'bed/output', 'box/output', 'twin/output']);
  s.tracks[1].sends[1].on = false;
  expect(signalGraph(s).doubles.size).toBe(0);
});
test('no generated session has a circle, every flow has its ends, and circles are those of a brute-force search', () => {
  fc.assert(
    fc.property(anySession(), fc.array(fc.tuple(fc.nat(9), fc.nat(9)), { maxLength: 4 }), (s, more) => {
      expect(signalGraph(s).loops.size).toBe(0);
      const lines = s.tracks;
      for (const [a, b] of more) {
        const t = lines[a % lines.length];
        t.sends = [...t.sends, send(lines[b % lines.length].id, -3)];
      }
      const g = signalGraph(s);
      const ids = new Set(g.nodes.map((n) => n.id));
      for (const f of g.flows) expect(ids.has(f.from) && ids.has(f.to)).toBe(true);
      // what leaves the computer comes back on purpose
      const inside = g.flows.filter((f) => f.kind !== 'loop');
      const reaches = (from: string, goal: string) => {
        const seen = new Set<string>();
        const todo = [from];
        while (todo.length) {
          const x = todo.pop()!;
          if (x === goal) return true;
          if (seen.has(x)) continue;
          seen.add(x);
          for (const f of inside) if (f.from === x) todo.push(f.to);
        }
        return false;
      };
      for (const f of inside) expect(g.loops.has(f.id)).toBe(reaches(f.to, f.from));
    }),
    { numRuns: 100 },
  );
});

test('what leaves the computer comes back: a node of its own between two flows, and no circle', () => {
  const unitUse = { id: '1', unit: unit('gull', { name: 'Gull' }), positions: {} };
  const s = sessionWith([
    {
      id: 'lead',
      name: 'Lead',
      chain: [
        device('outboard', {}, { id: 'out', hardware: { units: [unitUse], measured: null } }),
        device('outboard', {}, { id: 'asleep', state: 'inactive' }),
      ],
    },
  ]);
  const g = signalGraph(s);
  expect(g.nodes.find((n) => n.kind === 'loop')).toMatchObject({ label: 'Gull', detail: 'Out 7/8 ⇄ In 7/8' });
  const flows = g.flows.filter((f) => f.kind === 'loop');
  expect(flows.map((f) => [f.from, f.to, f.live])).toEqual([
    ['lead', 'loop:out', true],
    ['loop:out', 'lead', true],
  ]);
  expect(g.loops.size).toBe(0);
});
