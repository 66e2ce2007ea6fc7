import {
  createRack,
  createStrand,
  moveHandle,
  tieTarget,
  type Rack,
  type Slot,
} from '../../../core/index.ts';
import { device, sessionWith } from '../../../tests/support/build.ts';
import { typicalHandles } from '../rack/handles.ts';
import {
  LINE,
  SMALL_TILE,
  TILE,
  chainWidth,
  lineHeight,
  lineLayout,
  slotHeight,
  tileFor,
} from './measure.ts';
import { noteName, readingText } from '../../../core/devices/readings.ts';

const open = () => true;
const shut = () => false;
const trims = (n: number): Slot[] => Array.from({ length: n }, (_, i) => device('trim', {}, { id: `t${i}` }));
const rack = (strands: Slot[][], over: Partial<Rack> = {}): Rack =>
  createRack('R', [], {
    id: 'r',
    strands: strands.map((c, i) => createStrand(`S${i + 1}`, c, { id: `s${i}` })),
    ...over,
  });
const line = (chain: Slot[]) => sessionWith([{ id: 'a', chain }]).tracks[0];

describe('how a line is laid out', () => {
  test('devices alone: one height, tiles as wide as there is room, never under 26', () => {
    expect(lineHeight(line(trims(3)), open)).toBe(LINE);
    expect(slotHeight(trims(1)[0], open)).toBe(TILE);
    expect(slotHeight(trims(1)[0], open, true)).toBe(SMALL_TILE);
    expect(tileFor(trims(2), 400, open)).toBe(76);
    expect(tileFor(trims(12), 400, open)).toBe(27);
    expect(tileFor(trims(20), 400, open)).toBeNull();
  });

  test('an open rack is as high as its strands together, and as wide as the longest of them with its edges', () => {
    const two = rack([trims(1), trims(3)]);
    expect(slotHeight(two, open)).toBe(2 * SMALL_TILE + 3 + 4);
    expect(slotHeight(two, shut)).toBe(TILE);
    expect(chainWidth([two], 50, open)).toBeGreaterThan(chainWidth(trims(3), 50, open));
    expect(chainWidth([two], 50, shut)).toBe(chainWidth(trims(1), 50, shut));
    const nested = rack([[rack([trims(1), trims(1), trims(1)])], trims(1)]);
    expect(slotHeight(nested, open)).toBeGreaterThan(slotHeight(two, open) + 2 * SMALL_TILE);
  });

  test('where an open rack does not fit it is folded, and the line is low again; what does not fit at all is counted', () => {
    const wide = [...trims(2), rack([trims(6), trims(6)])];
    const roomy = lineLayout(line(wide), 1400, 0, open);
    const tight = lineLayout(line(wide), 800, 0, open);
    const narrow = lineLayout(line(trims(14)), 700, 0, open);
    expect([roomy.isOpen('r'), roomy.shown]).toEqual([true, 3]);
    expect(roomy.height).toBeGreaterThan(LINE);
    expect([tight.isOpen('r'), tight.height, tight.shown]).toEqual([false, LINE, 3]);
    expect(narrow.shown).toBeLessThan(14);
    expect(narrow.shown).toBeGreaterThan(0);
  });

  test('a rack that a person has folded stays folded, its neighbours stay as they are', () => {
    const chain = [rack([trims(1), trims(1)]), ...trims(1)];
    expect(lineLayout(line(chain), 1400, 0, (id) => id !== 'r').height).toBe(LINE);
  });

  test('a deeper folder leaves less room', () => {
    const tile = (depth: number) => lineLayout(line(trims(9)), 1200, depth, open).tile;
    expect(tile(6)).toBeLessThan(tile(0));
  });
});

describe('the handles that are offered', () => {
  test('drive up, output down by the same: the sum stays, to the ends of both ranges', () => {
    const r = rack([[device('saturator', { drive: 30, output: -30 }, { id: 'sat' })]]);
    const t = typicalHandles(r)[0];
    expect(t.ties).toEqual([
      { slot: 'sat', param: 'drive', from: 30, to: 36 },
      { slot: 'sat', param: 'output', from: -30, to: -36 },
    ]);
    const made: Rack = {
      ...r,
      handles: [
        {
          id: 'h',
          name: t.name,
          colour: 'rust',
          value: 0,
          cc: null,
          ties: t.ties.map((x, i) => ({ id: `t${i}`, curve: 0, ...x })),
        },
      ],
    };
    for (const value of [0, 37, 100]) {
      const at = moveHandle(made, 'h', value);
      const [up, down] = t.ties.map((x) => tieTarget(at, x)!.value);
      expect(up + down).toBeCloseTo(0, 1);
    }
  });

  test('a compressor is squeezed, a blend goes from one strand to the other, several mixes go together', () => {
    const r = rack(
      [
        [],
        [
          device('compressor', { threshold: -20 }, { id: 'c' }),
          device('chorus', { mix: 40 }, { id: 'x' }),
          device('delay', { mix: 25 }, { id: 'd' }),
        ],
      ],
      { blend: { mode: 'power', position: 30 } },
    );
    const labels = typicalHandles(r).map((t) => t.label);
    expect(labels[0]).toBe('S1 to S2');
    expect(labels).toContain('Compressor: threshold down, makeup up');
    expect(labels.at(-1)).toBe('All mixes together');
    for (const t of typicalHandles(r)) for (const tie of t.ties) expect(tieTarget(r, tie)).not.toBeNull();
  });

  test('nothing that cannot move: a value at the end of its range is not offered', () => {
    expect(typicalHandles(rack([[device('saturator', { drive: 36 })]]))).toEqual([]);
    expect(typicalHandles(rack([[]]))).toEqual([]);
  });
});

describe('figures in words', () => {
  test.each<[string, number, string]>([
    ['integrated', -23.04, '−23.0 LUFS'],
    ['true peak', -1, '−1.0 dBTP'],
    ['peak left', -160, '−∞'],
    ['peak', -12.34, '−12.3 dBFS'],
    ['gain', -0.01, '0.0 dB'],
    ['gain', -6.26, '−6.3 dB'],
    ['correlation', 0.874, '+0.87'],
    ['correlation', -1, '−1.00'],
    ['cents', -14.6, '−15 ct'],
    ['cents', 3.2, '+3 ct'],
    ['sung', 0, '—'],
    ['played', 69, 'A4'],
  ])('%s %d is read as %s', (label, v, want) => expect(readingText(label, v)).toBe(want));

  // MIDI 1.0: 60 is middle C, called C4 here (scientific pitch notation)
  test.each<[number, string]>([
    [60, 'C4'],
    [69.14, 'A4 +14'],
    [68.9, 'A4 −10'],
    [21, 'A0'],
    [61, 'C♯4'],
  ])('pitch %d is %s', (pitch, want) => expect(noteName(pitch)).toBe(want));
});
