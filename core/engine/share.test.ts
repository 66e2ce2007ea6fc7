import { helpRender, renderShared, shareOut, sumsSize, type Sums } from './share.ts';
import { renderNow, type Session } from '../index.ts';
import { both, clipOf, db, device, noise, peak, send, sessionWith } from '../../tests/support/build.ts';

const sounds = new Map([['x', both(noise(2, 0.3, 8))]]);
const line = (id: string, out: string, over = {}) => ({
  id,
  clips: [clipOf('x', 2)],
  output: { kind: 'track' as const, track: out },
  chain: [
    device('eq', { 'b3.on': true, 'b3.gain': 5 }),
    device('compressor', { threshold: -30, lookahead: id === 'c' ? 5 : 0 }),
  ],
  ...over,
});
function mixOf(change: (s: Session) => void = () => undefined): Session {
  const s = sessionWith([
    line('a', 'bus'),
    line('b', 'bus'),
    line('c', 'bus'),
    line('d', 'bus', { pan: 30 }),
    line('e', 'bus', { mute: true }),
    line('f', 'bus'),
    { id: 'bus', role: 'bus', chain: [device('limiter')] },
    { id: 'r', role: 'return', channels: 1, chain: [device('reverb', { mix: 100 })] },
  ]);
  s.tracks[0].sends = [send('r', -6)];
  s.tracks[3].sends = [send('r', -12)];
  change(s);
  return s;
}
/** the two sides of a shared render in one thread */
async function shared(s: Session, o: { to: number; taps?: string[]; blockSize?: number }) {
  const share = shareOut(s, o.taps)!;
  const sums: Sums[] = [];
  helpRender(
    s,
    { ...o, sounds },
    share.tracks,
    share.collects,
    (k) => (sums[k] = new Float64Array(sumsSize(share.collects.length))),
    () => undefined,
  );
  return {
    share,
    out: await renderShared(s, { ...o, sounds }, share.tracks, share.collects, (k) => sums[k]),
  };
}

test.each<[string, (s: Session) => void]>([
  ['as it is', () => undefined],
  [
    'with a solo',
    (s) => {
      s.tracks[1].solo = true;
    },
  ],
  [
    'with lines off',
    (s) => {
      s.tracks[2].state = 'inactive';
    },
  ],
  [
    'with a lookahead in the bus',
    (s) => {
      s.tracks[6].chain.push(device('compressor', { lookahead: 20 }));
    },
  ],
  [
    'with values that move',
    (s) => {
      s.tracks[0].automation = [
        {
          id: 'l',
          of: 'a',
          param: 'level',
          on: true,
          points: [
            { at: 0.2, value: -30 },
            { at: 0.9, value: 0 },
          ],
        },
      ];
      s.tracks[6].automation = [
        {
          id: 'm',
          of: 'bus',
          param: 'pan',
          on: true,
          points: [
            { at: 0, value: -80 },
            { at: 1, value: 80 },
          ],
        },
      ];
    },
  ],
  [
    'straight to the master',
    (s) => {
      s.tracks[3].output = { kind: 'track', track: s.tracks.at(-1)!.id };
    },
  ],
])('shared out over two, a mix is what it is alone: %s', async (_, change) => {
  const s = mixOf(change);
  for (const blockSize of [512, 128]) {
    const { out } = await shared(s, { to: 1.37, blockSize });
    const alone = renderNow(s, { to: 1.37, sounds, blockSize });
    // sums in another order: the last bit of what is kept may differ
    expect(
      db(peak(out.master[0].map((v, i) => v - alone.master[0][i])) / peak(alone.master[0])),
    ).toBeLessThan(-130);
  }
});

test('what is tapped, keyed or fed stays where it is; work that is small or cannot be split is not shared', async () => {
  const s = mixOf((x) => {
    x.tracks[1].chain[1] = device('compressor', {}, { key: { kind: 'track', track: 'c', tap: 'pre' } });
    x.tracks.unshift(
      ...['g', 'h', 'i'].map((id) => ({
        ...x.tracks[0],
        id,
        name: id,
        sends: [],
        chain: x.tracks[0].chain.map((d) => ({ ...d, id: `${d.id}-${id}` })),
        clips: [{ ...clipOf('x', 2), id: `clip-${id}` }],
      })),
    );
  });
  const { share, out } = await shared(s, { to: 1, taps: ['master', 'd', 'bus:pre'] });
  for (const id of ['b', 'c', 'd', 'bus', 'r']) expect(share.tracks).not.toContain(id);
  const alone = renderNow(s, { to: 1, sounds, taps: ['d'] }).d[0];
  expect(peak(out.d[0].map((v, i) => v - alone[i]))).toBe(0);
  expect(shareOut(sessionWith([line('a', 'bus'), { id: 'bus', role: 'bus' }]))).toBeNull();
  expect(shareOut(mixOf(), ['a', 'b', 'c', 'd', 'e', 'f'])).toBeNull();
});

test('called off, it stops', async () => {
  const stop = new AbortController();
  stop.abort();
  const s = mixOf();
  const share = shareOut(s)!;
  await expect(
    renderShared(
      s,
      { to: 1, sounds, signal: stop.signal },
      share.tracks,
      share.collects,
      () => new Float64Array(0),
    ),
  ).rejects.toThrow(/called off/);
});
