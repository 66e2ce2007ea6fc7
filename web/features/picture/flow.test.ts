import { capture, createDevice } from '../../../core/index.ts';
import { sessionWith } from '../../../tests/support/build.ts';
import { layFlow, linesInSight, sizeOf } from './flow.ts';

const HEIGHT = 300;
const lines = Array.from({ length: 200 }, (_, i) => ({ id: `l${i}`, chain: [createDevice('eq')] }));
const rig = capture(
  sessionWith(lines),
  lines.map((l) => l.id),
).content;

test.each([1, 0.5])('of a long rig only what is in sight is drawn, at a scale of %d', (scale) => {
  const laid = layFlow(rig, 120);
  const seen = new Set<string>();
  for (let scrolled = 0; scrolled <= sizeOf(laid).height * scale; scrolled += HEIGHT) {
    const drawn = linesInSight(laid, { scrolled, height: HEIGHT, scale });
    expect(drawn.length).toBeLessThan(50);
    // all that lies between the upper and the lower edge
    const [top, bottom] = [scrolled, scrolled + HEIGHT].map((px) => px / scale);
    for (const l of laid) if (l.bottom >= top && l.top <= bottom) expect(drawn).toContain(l);
    for (const l of drawn) seen.add(l.track.id);
  }
  expect(seen.size).toBe(200);
});
