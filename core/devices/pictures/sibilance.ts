import {
  at,
  frequencyGrid,
  num,
  reductionBar,
  xOf,
  type Pen,
  type Picture,
  type PictureView,
} from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const side = w - 46;
  frequencyGrid(g, v.colour, side, h);
  v.spectrum(side, h);
  const x = xOf(num(v, 'frequency'), side);
  g.strokeStyle = v.colour('warn');
  g.setLineDash([4, 3]);
  g.beginPath();
  g.moveTo(x, 0);
  g.lineTo(x, h);
  g.stroke();
  g.setLineDash([]);
  // how far down the highs are now, and the furthest that they may go
  const at = (db: number) => h * 0.25 - (db / 24) * h * 0.5;
  const wide = v.params.mode === 'wide';
  const from = wide ? 0 : Math.max(0, x - 30);
  const to = Math.min(side, x + 10);
  for (const [db, colour] of [
    [num(v, 'range'), 'edge'],
    [v.reduction, 'rope'],
  ] as const) {
    g.strokeStyle = v.colour(colour);
    g.lineWidth = 2;
    g.beginPath();
    g.moveTo(0, at(wide ? db : 0));
    if (!wide) g.bezierCurveTo(from, at(0), from, at(0), from, at(0));
    g.bezierCurveTo((from + to) / 2, at(wide ? db : 0), (from + to) / 2, at(db), to, at(db));
    g.lineTo(side, at(db));
    g.stroke();
  }
  reductionBar(g, v, w, h);
}

/** How far the highs are down. */
export const sibilance: Picture = {
  name: 'Sibilance over the live spectrum',
  overSpectrum: true,
  shape(d, w, h) {
    const x = (Math.log(num(d, 'frequency') / 500) / Math.log(40)) * w;
    const low = 4 + (-num(d, 'range') / 24) * (h - 6);
    const [from, to] = [Math.max(2, x - 6), Math.min(w - 2, x + 6)];
    return { line: `M1 4H${at(from)}C${at(x)} 4 ${at(x)} ${at(low)} ${at(to)} ${at(low)}H${w - 1}` };
  },
  draw,
};
