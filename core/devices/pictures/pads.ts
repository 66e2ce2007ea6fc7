import { at, type Picture } from './picture.ts';

/** Parts of an instrument; those with an output of their own are struck through. */
export const pads: Picture = {
  name: '',
  shape(d, w, h) {
    const parts = d.parts().filter((p) => p.kind === 'part');
    const count = Math.min(16, parts.length);
    const columns = Math.min(count, Math.max(1, Math.floor(w / 8)));
    const rows = Math.max(1, Math.ceil(count / columns));
    const size = Math.min(w / columns, h / rows) - 3;
    const pad = (out: string, i: number) => {
      const x = (i % columns) * (w / columns) + 1;
      const y = Math.floor(i / columns) * (h / rows) + 1;
      const own = out === 'main' ? '' : `M${at(x)} ${at(y + size)}l${at(size)} ${at(-size)}`;
      return `M${at(x)} ${at(y)}h${at(size)}v${at(size)}h${at(-size)}Z${own}`;
    };
    return {
      line: parts
        .slice(0, count)
        .map((p, i) => pad(p.out, i))
        .join(''),
    };
  },
};
