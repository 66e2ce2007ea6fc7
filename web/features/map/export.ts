/** The map as a file: colours are written out, so that it looks the same anywhere. */
export function svgText(svg: SVGSVGElement, width: number, height: number): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const style = getComputedStyle(document.documentElement);
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('width', String(Math.ceil(width)));
  copy.setAttribute('height', String(Math.ceil(height)));
  copy.setAttribute('viewBox', `0 0 ${Math.ceil(width)} ${Math.ceil(height)}`);
  copy.setAttribute('font-family', 'Source Sans 3, Helvetica, Arial, sans-serif');
  copy.querySelector('[data-camera]')?.removeAttribute('transform');
  for (const e of copy.querySelectorAll('[class],[tabindex],[role],[aria-label]')) {
    for (const a of ['class', 'tabindex', 'role', 'aria-label']) e.removeAttribute(a);
  }
  const back = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  back.setAttribute('width', '100%');
  back.setAttribute('height', '100%');
  back.setAttribute('fill', style.getPropertyValue('--paper').trim());
  copy.insertBefore(back, copy.firstChild);
  return new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\((--[\w-]+)\)/g, (_all, name: string) => style.getPropertyValue(name).trim() || '#000')
    .replace(/currentColor/g, style.getPropertyValue('--ink').trim());
}

/**
 * The same as a picture of twice the size; a browser has a largest one, so very large maps come out smaller.
 */
export async function pngOf(svg: string, width: number, height: number): Promise<Blob> {
  const image = new Image();
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    image.src = url;
    await image.decode();
    const scale = Math.min(2, 12000 / Math.max(width, height));
    const c = document.createElement('canvas');
    c.width = Math.ceil(width * scale);
    c.height = Math.ceil(height * scale);
    c.getContext('2d')!.drawImage(image, 0, 0, c.width, c.height);
    const blob = await new Promise<Blob | null>((r) => c.toBlob(r, 'image/png'));
    if (!blob) throw new Error('The browser could not make the picture; take the SVG instead.');
    return blob;
  } finally {
    URL.revokeObjectURL(url);
  }
}
