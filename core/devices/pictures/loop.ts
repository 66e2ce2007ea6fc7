import { large, num, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const p = v.params;
  g.font = large;
  const mid = h * 0.36;
  const box = { x: w * 0.3, y: h * 0.56, w: w * 0.4, h: h * 0.26 };
  g.strokeStyle = v.colour('edge');
  g.lineWidth = 2;
  g.beginPath();
  g.moveTo(6, mid);
  g.lineTo(w - 6, mid);
  g.stroke();
  g.strokeStyle = v.colour('rope');
  g.beginPath();
  g.moveTo(w * 0.16, mid);
  g.lineTo(w * 0.16, box.y + box.h / 2);
  g.lineTo(box.x, box.y + box.h / 2);
  g.moveTo(box.x + box.w, box.y + box.h / 2);
  g.lineTo(w * 0.84, box.y + box.h / 2);
  g.lineTo(w * 0.84, mid);
  g.stroke();
  g.strokeRect(box.x, box.y, box.w, box.h);
  g.fillStyle = v.colour('ink');
  // the names of the units that are chosen come with the values that it runs with
  const unit = p.unitNames ? String(p.unitNames) : v.word('unit').replace(' (simulated)', '');
  g.fillText(unit, box.x + 8, box.y + box.h / 2 + 4, box.w - 12);
  g.fillStyle = v.colour('soft');
  g.fillText(String(p.sendPort), 6, mid - 8, w * 0.45);
  g.fillText(String(p.returnPort), w * 0.66, mid - 8, w * 0.33);
  g.fillText(
    num(v, 'roundTrip') > 0
      ? `round trip ${num(v, 'roundTrip').toFixed(2)} ms`
      : 'round trip not measured yet',
    box.x,
    h - 6,
  );
}

/** The loop through the ports. */
export const loop: Picture = {
  name: 'The loop through the ports',
  shape(_d, w, h) {
    const path = `M2 ${h / 2}H${w * 0.3}V${h - 2}H${w * 0.7}V${h / 2}H${w - 2}`;
    return { line: `${path}M${w * 0.45} ${h - 5}L${w * 0.52} ${h - 2}L${w * 0.45} ${h + 1}` };
  },
  draw,
};
