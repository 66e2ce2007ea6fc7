import { pictured, playedAs, type Device, type Rack, type Shape, type Slot } from '../../../core/index.ts';

/** A slot's character as an SVG path in a box of w × h: what the tile on the line shows. */
export function shapeOf(d: Slot, w: number, h: number, sampleRate: number, tempo: number): Shape {
  if (d.kind === 'rack') return rackShape(d, w, h);
  const type = playedAs(d);
  return type.picture.shape(pictured(type, d.params, sampleRate, tempo), w, h);
}

/** A closed rack: its strands split and rejoin. */
function rackShape(r: Rack, w: number, h: number): { line: string } {
  const n = r.strands.length;
  if (n === 1) {
    return {
      line: `M1 ${h / 2}H${w * 0.2}M${w * 0.2} ${h * 0.2}H${w * 0.8}V${h * 0.8}H${w * 0.2}ZM${w * 0.8} ${h / 2}H${w - 1}`,
    };
  }
  return {
    line: r.strands
      .map((_, i) => {
        const y = 2 + ((h - 4) * i) / (n - 1);
        return `M1 ${h / 2}C${w * 0.2} ${h / 2} ${w * 0.12} ${y} ${w * 0.3} ${y}H${w * 0.7}C${w * 0.88} ${y} ${w * 0.8} ${h / 2} ${w - 1} ${h / 2}`;
      })
      .join(''),
  };
}

/** The state in words, for screen readers and titles. */
export const stateWord: Record<Device['state'], string> = {
  on: 'on',
  bypassed: 'bypassed',
  inactive: 'inactive',
};
