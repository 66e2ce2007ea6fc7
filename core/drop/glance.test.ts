import {
  applyDrop,
  capture,
  diffPresets,
  glanceOf,
  NULL_THIRDS,
  nullTest,
  planDrop,
  verifyDrop,
  type Preset,
  type Session,
} from '../index.ts';
import { makeDemo } from '../../demo/index.ts';

const demo = makeDemo();
const session = demo.sessions.find((s) => s.session.name === 'Ninth Wave Out')!.session;
const presetOf = (name: string): Preset => demo.presets.find((p) => p.name === name)!;
const dropped = (preset: Preset, into: Session, options = {}) => {
  const plan = planDrop(into, preset, options);
  return { plan, after: applyDrop(into, plan, preset).session };
};

describe('the intact report at a glance', () => {
  test('a mark for every device and connection of each demo preset, none of them unexplained', () => {
    for (const preset of demo.presets.filter((p) => p.kind !== 'starter')) {
      const { plan, after } = dropped(preset, session);
      const rows = verifyDrop(after, preset, plan).rows;
      const items = glanceOf(rows).flatMap((line) => line.items);
      expect(items.filter((item) => item.verdict === 'unexplained')).toEqual([]);
      const [first] = preset.content.tracks;
      for (const slot of first.chain) expect(items.map((item) => item.label)).toContain(slot.name);
      for (const send of first.sends) {
        expect(items.find((item) => item.id === send.id)).toMatchObject({ kind: 'connection' });
      }
    }
  });
  test('a device that was changed behind the drop’s back is crossed, and says which value', () => {
    const preset = presetOf('Lead, close and warm');
    const { plan, after } = dropped(preset, session);
    const device = after.tracks.find((t) => t.id === plan.ids.t1)!.chain[2];
    if (device.kind === 'device') device.params.threshold = -1;
    const glanced = glanceOf(verifyDrop(after, preset, plan).rows);
    const bad = glanced[0].items.filter((item) => item.verdict === 'unexplained');
    expect(bad.map((item) => item.label)).toEqual([device.name]);
    expect(bad[0].notes[0]).toContain('Threshold: ');
    expect(glanced[0].items.find((item) => item.label.startsWith('send to Plate'))).toMatchObject({
      verdict: 'tied',
    });
  });
});

describe('the null test says what it compared and draws the difference', () => {
  const preset = presetOf('Lead, close and warm');
  test('onto a line: the chain, without sends, level and pan; nothing differs', async () => {
    const onto = session.tracks.find((t) => t.role === 'audio')!.id;
    const { plan, after } = dropped(preset, session, {
      place: { kind: 'onto', track: onto, chain: 'replace' },
      parts: ['chain'],
      adapt: Object.fromEntries(planDrop(session, preset).adaptations.map((a) => [a.path, false])),
    });
    const found = await nullTest({ ...after, tempo: preset.reference.tempo }, preset, plan, { seconds: 1 });
    expect(found.compared).toEqual(['the chain']);
    expect(found.without).toEqual(['level', 'pan', 'sends']);
    expect(found.residual).toBe(-Infinity);
    expect(Math.max(...found.picture.difference.thirds)).toBeLessThan(-140);
    expect(found.picture.session).toEqual(found.picture.preset);
  });
  test('a bell that was moved stands out in its third, and is named', async () => {
    const { plan, after } = dropped(preset, session);
    const line = after.tracks.find((t) => t.id === plan.ids.t1)!;
    const trim = line.chain[0];
    const eq = line.chain.find((x) => x.kind === 'device' && x.type === 'eq');
    if (trim.kind !== 'device' || eq?.kind !== 'device') throw new Error('The demo’s strip is another one.');
    Object.assign(eq.params, { 'b3.on': true, 'b3.type': 'bell', 'b3.freq': 4000, 'b3.gain': 9, 'b3.q': 2 });
    const found = await nullTest(after, preset, plan, { seconds: 1 });
    const { thirds } = found.picture.difference;
    const loudest = NULL_THIRDS[thirds.indexOf(Math.max(...thirds))];
    expect(Math.abs(Math.log2(loudest / 4000))).toBeLessThan(0.7);
    expect(found.compared).toEqual(['the chain', 'level', 'pan']);
    expect(found.causes.join()).toContain('Band 3 gain');
  });
});

test('saved again, a device that was moved is the same one in another order, not one gone and one new', () => {
  const preset = presetOf('Lead, close and warm');
  const { plan, after } = dropped(preset, session);
  const line = after.tracks.find((t) => t.id === plan.ids.t1)!;
  const [first, ...others] = line.chain;
  line.chain = [...others, first];
  if (first.kind === 'device') first.params.gain = 3;
  const draft = capture(after, [line.id]);
  const from = line.origin!.ids!;
  const same = new Map(
    Object.entries(draft.ids).flatMap(([here, saved]) => (from[here] ? [[saved, from[here]] as const] : [])),
  );
  const differences = diffPresets(preset.content, draft.content, same);
  const inChain = differences.filter((d) => d.label.includes(first.name) || d.label.includes('order'));
  expect(inChain.map((d) => [d.label.split(' · ').slice(-2).join(' · '), d.kind])).toEqual([
    ['Lead voice 2 · order of devices', 'value'],
    [`${first.name} · Gain`, 'value'],
  ]);
});
