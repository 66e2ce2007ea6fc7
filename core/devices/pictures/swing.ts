import { medium, num, through, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  g.font = medium;
  const span = Math.max(1, Math.min(20, 2 / num(v, 'rate')));
  const y = (ms: number) => h - 16 - (ms / Math.max(10, num(v, 'delay') + num(v, 'depth') + 2)) * (h - 30);
  for (const [phase, colour] of [
    [0, 'rope'],
    [Math.PI / 2, 'soft'],
  ] as const) {
    g.strokeStyle = v.colour(colour);
    g.lineWidth = 2;
    g.beginPath();
    for (let i = 0; i <= 120; i++) {
      const t = (i / 120) * span;
      const ms =
        num(v, 'delay') +
        Math.min(num(v, 'depth'), num(v, 'delay') - 0.2) * Math.sin(2 * Math.PI * num(v, 'rate') * t + phase);
      if (i === 0) g.moveTo(0, y(ms));
      else g.lineTo((i / 120) * w, y(ms));
    }
    g.stroke();
  }
  g.fillStyle = v.colour('soft');
  g.fillText(`delay over ${span.toFixed(1)} s, left and right`, 6, h - 4);
}

/** How the delay swings, left and right. */
export const swing: Picture = {
  name: 'How the delay swings',
  shape(d, w, h) {
    const depth = Math.min(1, num(d, 'depth') / 8) * (h / 2 - 2) + 1;
    const y = (share: number) => h / 2 + depth * Math.sin(share * Math.PI * 4);
    return { line: through(Array.from({ length: 25 }, (_, i) => [(i / 24) * w, y(i / 24)])) };
  },
  draw,
};
