import { StereoDelay } from '../devices/align.ts';
import { Ramp, poleFor } from '../devices/math.ts';
import { Cascade, cookbook } from '../devices/biquad.ts';
import { EdgeRun } from './edge.ts';
import {
  both,
  clipOf,
  dev,
  device,
  difference,
  noise,
  peak,
  send,
  sessionWith,
  sine,
} from '../../tests/support/build.ts';
import { DEVICE_TYPES, Renderer, compile, renderNow, sessionLength, type Params } from '../index.ts';

const f64 = (x: Float32Array) => Float64Array.from(x);

describe('a ramp', () => {
  test('goes in a straight line, ends exactly at its target and stays', () => {
    const r = new Ramp(0);
    r.to(1, 100);
    r.advance(25);
    expect(r.value).toBeCloseTo(0.25, 12);
    r.advance(1000);
    expect([r.value, r.left]).toEqual([1, 0]);
    r.to(0, 0);
    expect(r.value).toBe(0);
  });
  test('a new target while it moves starts from where it is', () => {
    const r = new Ramp(0);
    r.to(1, 100);
    r.advance(50);
    r.to(0, 50);
    r.advance(25);
    expect(r.value).toBeCloseTo(0.25, 12);
  });
  test('a pole gets 63 % of the way in its time', () => {
    const k = poleFor(10, 48000);
    let y = 0;
    for (let i = 0; i < 480; i++) y += k * (1 - y);
    expect(y).toBeCloseTo(1 - Math.exp(-1), 6);
  });
});

describe('the delay that lines paths up', () => {
  const run = (d: StereoDelay, x: Float64Array, block: number) => {
    for (let at = 0; at < x.length; at += block) {
      const n = Math.min(block, x.length - at);
      const l = x.subarray(at, at + n);
      const r = l.slice();
      d.process(l, r, n);
    }
    return x;
  };
  test.each([1, 7, 128, 129, 1000, 5000])('%i samples, whatever the block', (samples) => {
    const x = noise(0.2);
    const d = new StereoDelay(48000, 128);
    d.set(samples, true);
    const out = run(d, f64(x), 97);
    for (let i = samples; i < out.length; i += 53) expect(out[i]).toBe(x[i - samples]);
    expect(peak(out.slice(0, samples))).toBe(0);
  });
  test('a change of length crossfades: no step larger than the sound has by itself', () => {
    const x = f64(sine(300, 0.5, 0.3));
    const d = new StereoDelay(48000, 128);
    d.set(100, true);
    run(d, x.subarray(0, 4800), 128);
    d.set(3000, false);
    run(d, x.subarray(4800), 128);
    let worst = 0;
    for (let i = 300; i < x.length; i++) worst = Math.max(worst, Math.abs(x[i] - x[i - 1]));
    expect(worst).toBeLessThan(1.3 * 0.5 * 2 * Math.sin((Math.PI * 300) / 48000));
  });
  test.each([0, 1, 300, 5000])(
    '%i samples: after blocks that were only heard it goes on as if they came out',
    (samples) => {
      const sound = f64(noise(0.3));
      const delayed = () => {
        const d = new StereoDelay(48000, 128);
        d.set(samples, true);
        return d;
      };
      const [whole, heard] = [delayed(), delayed()];
      const all = run(whole, sound.slice(), 128);
      const half = 128 * 60;
      for (let at = 0; at < half; at += 128) {
        expect(heard.isSteady).toBe(true);
        const block = sound.slice(at, at + 128);
        heard.hear(block, block.slice(), 128);
        // nobody wanted what comes out: nothing did
        expect(block).toEqual(sound.slice(at, at + 128));
      }
      expect(run(heard, sound.slice(half), 128)).toEqual(all.slice(half));
      // a length that changes is as far from its end
      for (const d of [whole, heard]) d.set(samples + 900, false);
      expect(heard.isSteady).toBe(false);
      expect(run(heard, sound.slice(), 128)).toEqual(run(whole, sound.slice(), 128));
    },
  );
  test('none costs nothing and changes nothing', () => {
    const d = new StereoDelay(48000, 128);
    const x = f64(noise(0.01));
    expect(d.idle).toBe(true);
    expect(run(d, x.slice(), 128)).toEqual(x);
  });
});

test('a connection that is new fades in over 10 ms, one that was there from the start is whole at once', () => {
  const one = new Float64Array(1024).fill(1);
  const go = (start: number) => {
    const e = new EdgeRun(48000, 1024, start);
    const l = new Float64Array(1024);
    const r = new Float64Array(1024);
    e.set(0.5, 0.25, 0, start === 1);
    e.add(one, one, l, r, 1024);
    return [l, r];
  };
  expect(go(1)[0].every((v) => v === 0.5)).toBe(true);
  const [l, r] = go(0);
  expect(l[0]).toBeLessThan(0.002);
  expect(l[240]).toBeCloseTo(0.25, 2);
  expect([l[600], r[600]]).toEqual([0.5, 0.25]);
});

test('a filter cascade glides between settings without a step and ends exactly there', () => {
  const tone = f64(sine(500, 0.5, 0.4));
  const other = tone.slice();
  const c = new Cascade(4, 48000);
  c.set([cookbook('bell', 500, 0, 1, 48000)], true);
  const block = (from: number, to: number) =>
    c.process(tone.subarray(from, to), other.subarray(from, to), to - from);
  block(0, 9600);
  c.set([cookbook('bell', 500, -18, 1, 48000), cookbook('highShelf', 4000, 6, 0.7, 48000)], false);
  expect(c.moving).toBe(true);
  block(9600, 19200);
  expect(c.moving).toBe(false);
  let worst = 0;
  for (let i = 1; i < tone.length; i++) worst = Math.max(worst, Math.abs(tone[i] - tone[i - 1]));
  expect(worst).toBeLessThan(1.1 * 0.5 * 2 * Math.sin((Math.PI * 500) / 48000));
  expect(peak(tone.slice(15000, 19200))).toBeCloseTo(0.5 * 10 ** (-18 / 20), 2);
  expect(tone).toEqual(other);
});

describe('live changes of every value of every device', () => {
  // a steady tone; each value is thrown from one end to the other while it plays. Delay times and reverb
  // types are crossfades, and gain reduction is a move of level: what counts is the step
  const cases = Object.values(DEVICE_TYPES)
    .flatMap((d) => d.params.filter((p) => p.kind === 'number').map((p) => [d.type, p.id] as const))
    .filter(([type, id]) => type !== 'eq' || /^(in|out|b3)/.test(id));
  test.each(cases)('%s %s: no click', (type, id) => {
    const p = DEVICE_TYPES[type].byId[id];
    const baseOf = (): Params => {
      if (type === 'eq') return { 'b3.on': true, 'b3.gain': 6 };
      if (type === 'compressor') return { threshold: -20 };
      if (type === 'delay') return { mode: 'ms', time: 100, mix: 50 };
      if (type === 'reverb') return { mix: 30, decay: 0.5 };
      return {};
    };
    const base: Params = baseOf();
    // detector, timing and key values shape a waveform by themselves; jumps over 30 dB would be heard as the
    // level that they are
    const inside = p.taper === 'log' ? [p.min! * 4, p.max! / 4] : [p.min!, p.max!];
    const share = p.unit === '%' ? [10, 90] : inside;
    const [from, to] = p.unit === 'dB' ? [Math.max(p.min!, -12), Math.min(p.max!, 12)] : share;
    const s = sessionWith([
      { id: 'a', clips: [clipOf('t')], chain: [device(type, { ...base, [id]: from })] },
    ]);
    const r = new Renderer(48000, 128, new Map([['t', both(sine(400, 0.25, 2))]]));
    r.update(s, true);
    r.startAt(0);
    const out = new Float64Array(128);
    const right = new Float64Array(128);
    const all: number[] = [];
    for (let k = 0; k < 375; k++) {
      if (k === 150) {
        r.update({
          ...s,
          tracks: s.tracks.map((t) =>
            t.id === 'a'
              ? { ...t, chain: [{ ...t.chain[0], params: { ...dev(t.chain[0]).params, [id]: to } }] }
              : t,
          ),
        });
      }
      r.process(out, right, 128);
      if (k > 100) all.push(...out);
    }
    // the largest bend between three samples: a click is a corner, a level move is not
    let bend = 0;
    let top = 0;
    for (let i = 2; i < all.length; i++) {
      bend = Math.max(bend, Math.abs(all[i] - 2 * all[i - 1] + all[i - 2]));
      top = Math.max(top, Math.abs(all[i]));
    }
    const own = top * (2 * Math.sin((Math.PI * 400) / 48000)) ** 2;
    expect(bend / own).toBeLessThan(({ compressor: 40, multiband: 12 } as Record<string, number>)[type] ?? 8);
  });
});

describe('schedule', () => {
  test('the length of a session is the end of its last clip', () => {
    expect(sessionLength(sessionWith([]))).toBe(0);
    expect(
      sessionLength(sessionWith([{ clips: [{ ...clipOf('x', 3), start: 2 }] }, { clips: [clipOf('y', 4)] }])),
    ).toBe(5);
  });
  test('latency adds up along the longest way and is reported for the master', () => {
    const late = (ms: number) => device('compressor', { lookahead: ms });
    const s = sessionWith([
      { id: 'a', chain: [late(5)], output: { kind: 'track', track: 'b' } },
      { id: 'b', role: 'bus', chain: [late(10)] },
      { id: 'c', chain: [late(2)] },
    ]);
    const plan = compile(s);
    expect(plan.latency).toBe(720);
    expect(
      plan.nodes
        .find((n) => n.track.role === 'master')!
        .inputs.map((e) => e.delay)
        .sort((a, b) => a - b),
    ).toEqual([0, 624]);
  });
  test('clips start on their sample and play their part of the sound', () => {
    const x = noise(1);
    const s = sessionWith([{ id: 'a', clips: [{ ...clipOf('x', 0.1), start: 0.25, offset: 0.5 }] }]);
    const [l] = renderNow(s, { sounds: new Map([['x', both(x)]]), to: 0.5 }).master;
    expect(peak(l.slice(0, 12000))).toBe(0);
    expect(difference(l.slice(12000, 16800), x.slice(24000, 28800))).toBe(0);
    expect(peak(l.slice(16800))).toBe(0);
  });
  test('a render from the middle is the middle of the whole, where nothing rings on', () => {
    const s = sessionWith([
      { id: 'a', clips: [clipOf('x')], sends: [send('r', -6)] },
      { id: 'r', role: 'return', chain: [device('trim', { gain: -3 })] },
    ]);
    const sounds = new Map([['x', both(noise(1))]]);
    const whole = renderNow(s, { sounds, to: 1 }).master[0];
    const part = renderNow(s, { sounds, from: 0.4, to: 0.6 }).master[0];
    expect(difference(part, whole.slice(19200, 28800))).toBe(0);
  });
  test('silence before the sound arrives, and a sound that comes late', () => {
    const r = new Renderer(48000, 128);
    const s = sessionWith([{ id: 'a', clips: [clipOf('x')] }]);
    r.update(s, true);
    r.startAt(0);
    const [l, q] = [new Float64Array(128), new Float64Array(128)];
    r.process(l, q, 128);
    expect(peak(l)).toBe(0);
    r.sounds.set('x', both(noise(1)));
    r.update({ ...s });
    for (let k = 0; k < 20; k++) r.process(l, q, 128);
    expect(peak(l)).toBeGreaterThan(0.05);
  });
});
