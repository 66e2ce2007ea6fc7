import {
  grid,
  line,
  minus,
  reductionBar,
  through,
  type Pen,
  type Picture,
  type PictureView,
} from './picture.ts';

const LEVELS = [-48, -36, -24, -12, 0];

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const side = w - 46;
  const x = (db: number) => ((db + 60) / 66) * side;
  const y = (db: number) => h - ((db + 60) / 66) * h;
  const words = (place: (db: number) => number) =>
    LEVELS.map((db) => [place(db), minus(db)] as [number, string]);
  grid(g, v, side, h, words(x), words(y));
  g.strokeStyle = v.colour('edge');
  g.setLineDash([3, 3]);
  line(g, x(-60), y(-60), x(6), y(6));
  g.setLineDash([]);
  g.strokeStyle = v.colour('warn');
  for (const t of [v.params.threshold, v.params.ceiling]) {
    if (typeof t === 'number') line(g, x(t), 0, x(t), h);
  }
  g.strokeStyle = v.colour('rope');
  g.lineWidth = 2;
  g.beginPath();
  for (let db = -60; db <= 6; db += 0.5) {
    const py = y(Math.max(-70, v.curve(db)));
    if (db === -60) g.moveTo(x(db), py);
    else g.lineTo(x(db), py);
  }
  g.stroke();
  if (v.level > -59) {
    g.fillStyle = v.colour('ink');
    const out = Math.max(-60, Math.min(6, v.curve(v.level)));
    g.beginPath();
    g.arc(x(Math.min(6, v.level)), y(out), 5, 0, 7);
    g.fill();
  }
  reductionBar(g, v, w, h);
}

/** Level out over level in, with the point where the sound is now. */
export const transfer: Picture = {
  name: 'Transfer curve and gain reduction',
  shape(d, w, h) {
    const x = (db: number) => ((db + 60) / 60) * w;
    const y = (db: number) => h - 1 - ((db + 60) / 60) * (h - 2);
    const levels = Array.from({ length: 31 }, (_, i) => -60 + i * 2);
    const out = (db: number) => Math.max(-62, Math.min(0, d.curve(db)));
    return { line: through(levels.map((db) => [x(db), y(out(db))])) };
  },
  draw,
};
