/** What only shows a session compiles no kernels: a page would wait for them before it is drawn. */
import fc from 'fast-check';
import { anySession } from '../../../tests/support/generate.ts';
import { DEVICE_TYPES, devicesIn, signalGraph, validateSession } from '../../../core/index.ts';
import { backend } from '../../../core/devices/kernels/index.ts';
import { shapeOf } from './shapes.ts';

test('nothing that is shown of a session needs the kernels', () => {
  const compiled = jest.spyOn(WebAssembly, 'Module');
  for (const session of fc.sample(anySession(), 20)) {
    const { tracks, sampleRate, tempo } = session;
    expect(validateSession(session)).toEqual([]);
    signalGraph(session);
    for (const device of tracks.flatMap((t) => devicesIn(t.chain))) {
      shapeOf(device, 40, 20, sampleRate, tempo);
      const { latency, earlier = [] } = DEVICE_TYPES[device.type];
      for (const sound of [{ latency }, ...earlier]) sound.latency?.(device.params, sampleRate);
    }
  }
  expect(compiled).not.toHaveBeenCalled();
  // who asks for them is the first who did
  backend();
  expect(compiled).toHaveBeenCalled();
});
