import { createRack, createStrand, type Session, type Slot } from '../index.ts';
import { clipOf, db, device, noise, peak, sessionWith } from '../../tests/support/build.ts';
import { PortBuffers } from './ports.ts';
import { Renderer } from './renderer.ts';

/** frames of the browser's audio thread, and of the engine above it */
const QUANTUM = 128;
const BLOCK = 512;
const PORTS = { outs: { 'Out 3/4': [2, 3] }, ins: { 'In 3/4': [0, 1] }, monitor: [0, 1] };

/**
 * An engine on an interface of four outputs whose third and fourth are plugged into two inputs, so many frames away.
 * @param at is told the number of every browser's block before it is played
 */
function onInterface(
  session: Session,
  delay: number,
  blocks: number,
  at: (n: number, ports: PortBuffers, now: Renderer) => void = () => {},
) {
  const ports = new PortBuffers(BLOCK);
  ports.set(PORTS);
  const sounds = new Map([['x', { l: noise(2, 0.4, 3), r: noise(2, 0.4, 4) }]]);
  const engine = new Renderer(session.sampleRate, BLOCK, sounds, null, ports);
  engine.update(session, true);
  engine.startAt(0);
  const cable = [0, 1].map(() => new Float32Array(blocks * QUANTUM + delay));
  const heard = [0, 1, 2, 3].map(() => new Float32Array(blocks * QUANTUM));
  const mix = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  for (let n = 0; n < blocks; n++) {
    const from = n * QUANTUM;
    at(n, ports, engine);
    ports.arrive(
      cable.map((c) => c.subarray(from, from + QUANTUM)),
      QUANTUM,
    );
    const given = from % BLOCK;
    if (given === 0) {
      ports.begin();
      engine.process(mix[0], mix[1], BLOCK);
    }
    const to = heard.map((h) => h.subarray(from, from + QUANTUM));
    ports.give(to, given, QUANTUM, mix[0], mix[1]);
    cable.forEach((c, side) => c.set(to[2 + side], from + delay));
  }
  return heard;
}

/** A line that goes out at ports of its own and back; beside itself turned over when `split`. */
function lineWithLoop(frames: number, params: Record<string, string | number>, split: boolean): Session {
  const loop = device(
    'outboard',
    { sendPort: 'Out 3/4', returnPort: 'In 3/4', roundTrip: frames / 48, unit: 'wire', ...params },
    { id: 'loop' },
  );
  const over = [loop, device('trim', { polarityL: true, polarityR: true })];
  const chain: Slot[] = split
    ? [createRack('Split', [], { strands: [createStrand('Dry', []), createStrand('Out', over)] })]
    : [loop];
  return sessionWith([{ id: 'line', name: 'Line', clips: [clipOf('x', 2)], chain }]);
}

test('a loop over real ports is heard, and nulls beside the dry path where its round trip is counted right', () => {
  const delay = 1000;
  // what the engine works ahead is a part of the way
  const whole = delay + BLOCK - QUANTUM;
  const rest = (frames: number) =>
    db(peak(onInterface(lineWithLoop(frames, {}, true), delay, 400)[0].subarray(4 * whole)));
  expect(rest(whole)).toBeLessThan(-100);
  expect(rest(whole + 1)).toBeGreaterThan(-30);
  const [l, , send] = onInterface(lineWithLoop(whole, {}, false), delay, 400);
  expect(db(peak(send))).toBeGreaterThan(-12);
  expect(db(peak(l.subarray(4 * whole)))).toBeGreaterThan(-12);
});

test('ports that go leave the simulated loop or silence, as chosen, without a click; and come back', () => {
  const without = { outs: {}, ins: {}, monitor: [0, 1] };
  const unplugged = (through: string, roundTrip = 1384) =>
    onInterface(lineWithLoop(roundTrip, { through }, false), 1000, 900, (n, ports) => {
      if (n === 300) ports.set(without);
      if (n === 600) ports.set(PORTS);
    })[0];
  const level = (x: Float32Array, from: number, to: number) =>
    db(peak(x.subarray(from * QUANTUM, to * QUANTUM)));
  for (const [through, away] of [
    ['ports', -12],
    ['simulated', -12],
  ] as const) {
    expect(level(unplugged(through), 350, 600)).toBeGreaterThan(away);
  }
  const silent = unplugged('silence');
  expect(level(silent, 100, 300)).toBeGreaterThan(-12);
  expect(level(silent, 340, 600)).toBe(-Infinity);
  expect(level(silent, 640, 740)).toBeGreaterThan(-12);
});

test('one monitor channel gets both sides, and a loop that is always simulated sends nothing out', () => {
  const heard = onInterface(lineWithLoop(0, { through: 'simulated' }, false), 64, 100, (n, ports) => {
    if (n === 0) ports.set({ ...PORTS, monitor: [1] });
  });
  expect(peak(heard[0])).toBe(0);
  expect(peak(heard[1])).toBeGreaterThan(0.1);
  expect(peak(heard[2])).toBe(0);
});
