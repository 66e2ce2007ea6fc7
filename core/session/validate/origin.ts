import type { Foreign, Origin, Session } from '../../model/types.ts';
import { isListOf, isObject, isPart, isText, type Checking } from './checking.ts';

const isValue = (v: unknown): boolean => isText(v) || typeof v === 'boolean' || Number.isFinite(v);
const isTableOf = (v: unknown, isOne: (x: unknown) => boolean): boolean =>
  isObject(v) && Object.values(v).every(isOne);
const areTexts = (of: object, names: readonly string[]): boolean =>
  names.every((name) => isText((of as Record<string, unknown>)[name]));

/** Which preset a line or a piece came from: an update from the shelf and a way back read all of it. */
export function checkOrigin(c: Checking, o: Origin | undefined, path: string, who: string): void {
  if (o === undefined) return;
  const isWhole =
    isObject(o) &&
    areTexts(o, ['preset', 'hash', 'name', 'drop', 'local']) &&
    Number.isFinite(o.version) &&
    (o.parts === undefined || isListOf(o.parts, isPart)) &&
    (o.ids === undefined || isTableOf(o.ids, isText)) &&
    (o.adapted === undefined || isTableOf(o.adapted, isValue)) &&
    (o.beside === undefined || isListOf(o.beside, isText));
  if (!isWhole) c.bad(`${path}/origin`, 'origin', `${who}: what it was dropped from is not told whole.`);
}

/** What is kept of a third-party device. */
export function checkForeign(c: Checking, f: Foreign, path: string, who: string): void {
  const isParam = (p: unknown) =>
    isObject(p) && areTexts(p, ['id', 'name', 'value']) && (p.unit === undefined || isText(p.unit));
  const isWhole =
    isObject(f) &&
    areTexts(f, ['format', 'identifier', 'vendor', 'name']) &&
    (f.state === undefined || (isObject(f.state) && areTexts(f.state, ['sha256', 'path']))) &&
    isListOf(f.params, isParam) &&
    (f.xml === undefined || isText(f.xml));
  if (!isWhole) {
    c.bad(`${path}/foreign`, 'opaque', `${who}: a third-party device needs its identifier and its values.`);
  }
}

/** The file that a session came from, and which lines earlier drops were tied to. */
export function checkHistory(c: Checking, { source, lastTies }: Session): void {
  const isSource =
    source === undefined ||
    (isObject(source) && source.format === 'dawproject' && areTexts(source, ['sha256', 'name']));
  if (!isSource) c.bad('/source', 'object', 'The file that a session came from has a name and a sum.');
  if (lastTies !== undefined && !isTableOf(lastTies, isText)) {
    c.bad('/lastTies', 'object', 'Ties of earlier drops are lines by their names.');
  }
}
