import { formatDb, type Flow, type FlowKind, type FlowNode, type Id } from '../../../core/index.ts';

/** What is wrong with a connection. */
export type Fault = 'loop' | 'double' | null;
type NameOf = (id: Id) => string;

const WORDS: Record<FlowKind, string> = {
  output: 'out to',
  send: 'sends to',
  key: 'is the key of',
  input: 'goes into',
  midi: 'plays',
  loop: 'goes over the ports to',
};
const FAULTS = { loop: ': part of a loop', double: ': one of two ways to the same place' };

/** What stands under a node's name; of a folder that is folded, how many lines it stands for. */
export function nodeText(n: FlowNode, folded: readonly Id[], linesIn: (folder: Id) => number): string {
  if (!n.track) return n.detail ?? n.kind;
  const { role, mute, state, chain } = n.track;
  if (role === 'folder' && folded.includes(n.id)) return `folder of ${linesIn(n.id)}`;
  const devices = chain.length === 1 ? '1 device' : `${chain.length} devices`;
  return [
    role,
    mute ? ', muted' : '',
    state === 'inactive' ? ', inactive' : '',
    chain.length ? ` · ${devices}` : '',
  ].join('');
}

/** A node with everything that leaves it, in words. */
export function nodeTold(n: FlowNode, under: string, flows: readonly Flow[], nameOf: NameOf): string {
  const leaving = flows.filter((f) => f.from === n.id).map((f) => `${WORDS[f.kind]} ${nameOf(f.to)}`);
  return `${n.label} ${under}${leaving.length ? `; ${leaving.join(', ')}` : ''}`;
}

/** A connection in words: from where to where, how loud, and what is wrong with it. */
export function flowTold(f: Flow, fault: Fault, nameOf: NameOf): string {
  return [
    `${nameOf(f.from)} ${WORDS[f.kind]} ${nameOf(f.to)}`,
    f.level === undefined ? '' : `, ${formatDb(f.level)}`,
    f.detail ? `, ${f.detail}` : '',
    f.tap ? `, ${f.tap}-fader` : '',
    f.live ? '' : ' (carries nothing now)',
    fault ? FAULTS[fault] : '',
  ].join('');
}

/** Cut at the end where it is too long for its box. */
export const short = (text: string, length: number): string =>
  text.length > length ? text.slice(0, length - 1) + '…' : text;
