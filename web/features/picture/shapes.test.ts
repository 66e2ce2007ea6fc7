import { ADDABLE, DEVICE_TYPES, fromPosition, type Params } from '../../../core/index.ts';
import { device } from '../../../tests/support/build.ts';
import { shapeOf } from './shapes.ts';

const numbers = (path: string) => (path.match(/-?\d+(\.\d+)?/g) ?? []).map(Number);

test('every device has a picture that stays in its box at every end of its values', () => {
  // parts, layers and trims that are alike are looked at once
  for (const spec of ADDABLE) {
    for (const p of spec.params.filter((x) => !/^([plt])([2-9]|1\d)(\.|$)/.test(x.id))) {
      const valuesOf = () => {
        if (p.kind === 'number') return [p.min!, p.max!, fromPosition(p, 0.5)];
        if (p.kind === 'switch') return [true, false];
        if (p.kind === 'text') return ['', 'Out 1/2'];
        return p.choices!.map((c) => c.id);
      };
      const values = valuesOf();
      for (const v of values) {
        const params: Params = { [p.id]: v };
        if (spec.type === 'eq' && p.group.startsWith('Band')) params[`b${p.group.slice(5)}.on`] = true;
        for (const state of ['on', 'bypassed', 'inactive'] as const) {
          const s = shapeOf(device(spec.type, params, { state }), 60, 20, 48000, 96);
          expect(s.line).toMatch(/^M/);
          expect(
            [...numbers(s.line), ...numbers(s.fill ?? '')].filter((n) => !(n >= -25 && n <= 85)),
          ).toEqual([]);
        }
      }
    }
  }
});

test('the picture follows the values', () => {
  const at = (type: string, params: Params) => shapeOf(device(type, params), 60, 20, 48000, 120).line;
  expect(at('eq', { 'b4.on': true, 'b4.gain': 9 })).not.toBe(at('eq', {}));
  expect(at('compressor', { ratio: 10 })).not.toBe(at('compressor', { ratio: 2 }));
  expect(at('reverb', { decay: 4 })).not.toBe(at('reverb', { decay: 0.5 }));
  expect(at('trim', { gain: 12 })).not.toBe(at('trim', {}));
  // a quarter at 120 bpm is 500 ms: the same picture as 500 ms
  expect(at('delay', { mode: 'note', note: '1/4' })).toBe(at('delay', { mode: 'ms', time: 500 }));
  expect(
    shapeOf(
      device(
        'opaque',
        {},
        { foreign: { format: 'VST3', identifier: 'x', vendor: '', name: 'x', params: [] } },
      ),
      60,
      20,
      48000,
      120,
    ).line,
  ).toBe('M4 10H56');
  expect(Object.keys(DEVICE_TYPES)).toContain('opaque');
});
