import { DOMParser, XMLSerializer, type Document, type Element, type Node } from '@xmldom/xmldom';
import { FormatError } from '../errors.ts';

export type { Document, Element };
const MAX_XML = 64 * 1024 * 1024;
const MAX_DEPTH = 200;
const MAX_ELEMENTS = 500_000;
const MAX_ATTRIBUTES = 1000;

/**
 * Parses XML of bounded size and nesting. Document types (and with them external and expanding entities) are
 * refused. Errors name the line.
 */
export function parseXml(bytes: Uint8Array, file: string, entry: string): Document {
  if (bytes.length > MAX_XML) throw new FormatError(file, entry, 'it is larger than 64 MB.');
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new FormatError(file, entry, 'it is not UTF-8 text.');
  }
  const refusal = refused(text);
  if (refusal) throw new FormatError(file, entry, refusal);
  const problems: string[] = [];
  try {
    const doc = new DOMParser({
      locator: true,
      onError: (level, message) => {
        if (level !== 'warning') problems.push(message);
      },
    }).parseFromString(text.replace(/^\uFEFF/, ''), 'text/xml');
    if (problems.length || !doc.documentElement) throw new Error(problems[0] ?? 'there is no element in it');
    return doc;
  } catch (e) {
    const message = (problems[0] ?? (e as Error).message).split('\n')[0].slice(0, 200);
    const line = /line:?\s*(\d+)/i.exec((e as Error).message + (problems[0] ?? ''))?.[1] ?? lineOf(e);
    throw new FormatError(
      file,
      entry + (line ? `, line ${line}` : ''),
      `the XML is broken (${message}). Export it again.`,
    );
  }
}

/**
 * What cannot be read in bounded time and memory, found before it is parsed: a document type, nesting, number
 * of elements and of attributes. Null when there is nothing.
 */
function refused(text: string): string | null {
  const past = (mark: string, from: number) => {
    const at = text.indexOf(mark, from);
    return at < 0 ? text.length : at + mark.length;
  };
  let depth = 0;
  let elements = 0;
  for (let at = text.indexOf('<'); at >= 0; at = text.indexOf('<', at)) {
    if (text.startsWith('<!--', at)) at = past('-->', at + 4);
    else if (text.startsWith('<![CDATA[', at)) at = past(']]>', at);
    else if (text[at + 1] === '?') at = past('?>', at);
    else if (text[at + 1] === '!') return 'a document type is not allowed here; the file was not read.';
    else if (text[at + 1] === '/') {
      depth--;
      at = past('>', at);
    } else {
      const tag = tagAt(text, at + 1);
      if (tag.attributes > MAX_ATTRIBUTES) return `an element has more than ${MAX_ATTRIBUTES} attributes.`;
      if (++elements > MAX_ELEMENTS) return `it has more than ${MAX_ELEMENTS} elements.`;
      if (!tag.closed) depth++;
      if (depth > MAX_DEPTH) return `elements are nested more than ${MAX_DEPTH} deep.`;
      at = tag.end;
    }
  }
  return null;
}

/** The end of a tag and what it has, a “>” inside of quotes being text. */
function tagAt(text: string, from: number): { end: number; closed: boolean; attributes: number } {
  let attributes = 0;
  for (let at = from; at < text.length; at++) {
    const c = text[at];
    if (c === '>') return { end: at + 1, closed: text[at - 1] === '/', attributes };
    if (c === '"' || c === "'") {
      attributes++;
      at = text.indexOf(c, at + 1);
      if (at < 0) break;
    }
  }
  return { end: text.length, closed: false, attributes };
}

const lineOf = (e: unknown) => {
  const l = (e as { locator?: { lineNumber?: number } }).locator?.lineNumber;
  return l ? String(l) : '';
};

export const writeXml = (doc: Document): Uint8Array => {
  const text = new XMLSerializer().serializeToString(doc);
  return new TextEncoder().encode(
    text.startsWith('<?xml') ? text : '<?xml version="1.0" encoding="UTF-8"?>\n' + text,
  );
};

export const kids = (e: Element, name?: string): Element[] => {
  const out: Element[] = [];
  for (let n: Node | null = e.firstChild; n; n = n.nextSibling) {
    if (n.nodeType === 1 && (!name || n.nodeName === name)) out.push(n as Element);
  }
  return out;
};
export const kid = (e: Element | null | undefined, name: string): Element | null =>
  e ? (kids(e, name)[0] ?? null) : null;
export const attr = (e: Element | null | undefined, name: string): string | null =>
  e?.hasAttribute(name) ? e.getAttribute(name) : null;
export const where = (e: Element, entry = 'project.xml') =>
  `${entry}, line ${e.lineNumber ?? '?'}, <${e.nodeName}>`;

/** An element as text, to be kept and read again with `fromText`. */
export const toText = (e: Element): string => new XMLSerializer().serializeToString(e);

/** A kept element as a child of another document's element, every id in it made new by a prefix. */
export function fromText(parent: Element, text: string, prefix: string): Element {
  const root = parseXml(new TextEncoder().encode(text), 'a kept device', 'element').documentElement!;
  for (const e of [root, ...Array.from(root.getElementsByTagName('*'))]) {
    if (e.hasAttribute('id')) e.setAttribute('id', e === root ? prefix : `${prefix}-${e.getAttribute('id')}`);
  }
  return parent.appendChild(parent.ownerDocument!.importNode(root, true)) as Element;
}

/** Child of a name, made in its place when it is not there. */
export function ensure(
  e: Element,
  name: string,
  attrs: Record<string, string | number | boolean> = {},
): Element {
  return kid(e, name) ?? append(e, name, attrs);
}

/** A new child where the schema wants it: in front of what comes later, otherwise at the end. */
export function append(
  e: Element,
  name: string,
  attrs: Record<string, string | number | boolean> = {},
): Element {
  const out = e.ownerDocument!.createElement(name);
  for (const [k, v] of Object.entries(attrs)) out.setAttribute(k, String(v));
  e.insertBefore(out, firstBehind(e, name));
  return out;
}

/**
 * What a new child of a name stands in front of; null for the end. Looked for from the end, where most are
 * put, so that thousands of children cost no more each than a few.
 */
function firstBehind(e: Element, name: string): Node | null {
  const order = Object.hasOwn(ORDER, e.nodeName) ? ORDER[e.nodeName] : [];
  const mine = order.indexOf(name);
  let behind: Node | null = null;
  if (mine < 0) return behind;
  for (let n = e.lastChild; n; n = n.previousSibling) {
    const its = order.indexOf(n.nodeName);
    if (its > mine) behind = n;
    else if (its >= 0) break;
  }
  return behind;
}

/** What every device begins with. */
const DEVICE = ['Parameters', 'Enabled', 'State'];
/**
 * The order of children within an element, alphabetical within a type behind what its base type has (version
 * 1.0, from memory of the published schema).
 */
const ORDER: Record<string, string[]> = {
  Project: ['Application', 'Transport', 'Structure', 'Arrangement', 'Scenes'],
  Transport: ['Tempo', 'TimeSignature'],
  Track: ['Channel', 'Track'],
  Channel: ['Devices', 'Mute', 'Pan', 'Sends', 'Volume'],
  Send: ['Enable', 'Pan', 'Volume'],
  Band: ['Freq', 'Gain', 'Q', 'Enabled'],
  Points: ['Target', 'RealPoint', 'BoolPoint'],
  Arrangement: ['Lanes', 'Markers', 'TempoAutomation', 'TimeSignatureAutomation'],
  BuiltinDevice: DEVICE,
  Vst2Plugin: DEVICE,
  Vst3Plugin: DEVICE,
  ClapPlugin: DEVICE,
  AuPlugin: DEVICE,
  Equalizer: [...DEVICE, 'Band', 'InputGain', 'OutputGain'],
  Compressor: [...DEVICE, 'Attack', 'AutoMakeup', 'InputGain', 'OutputGain', 'Ratio', 'Release', 'Threshold'],
  NoiseGate: [...DEVICE, 'Attack', 'Range', 'Ratio', 'Release', 'Threshold'],
  Limiter: [...DEVICE, 'Attack', 'InputGain', 'OutputGain', 'Release', 'Threshold'],
};

/**
 * An element's canonical form: attributes sorted, white space between elements and comments left out; for
 * telling whether two say the same.
 */
export function canonicalXml(e: Element): string {
  const attrs = Array.from(e.attributes)
    .map((a) => `${a.name}=${JSON.stringify(a.value)}`)
    .sort();
  const inner: string[] = [];
  for (let n: Node | null = e.firstChild; n; n = n.nextSibling) {
    if (n.nodeType === 1) inner.push(canonicalXml(n as Element));
    else if ((n.nodeType === 3 || n.nodeType === 4) && n.nodeValue?.trim()) {
      inner.push(JSON.stringify(n.nodeValue.trim()));
    }
  }
  return `<${[e.nodeName, ...attrs].join(' ')}>${inner.join('')}</>`;
}
