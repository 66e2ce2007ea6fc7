import type { FlowKind } from '../../../core/index.ts';
import type { Fault } from './words.ts';

/** How each kind of connection is drawn: told apart by dashes and ends, never by colour alone. */
export const KINDS: readonly FlowKind[] = ['output', 'send', 'key', 'input', 'midi', 'loop'];
export const LABELS: Record<FlowKind, string> = {
  output: 'output',
  send: 'send',
  key: 'key',
  input: 'input',
  midi: 'MIDI',
  loop: 'out and back',
};
export const DASHES: Record<FlowKind, string | undefined> = {
  output: undefined,
  send: '7 4',
  key: '1.5 4',
  input: undefined,
  midi: '10 3 2 3',
  loop: '12 3',
};
const WIDTHS: Record<FlowKind, number> = { output: 2, send: 1.5, key: 1.5, input: 3.4, midi: 1.5, loop: 2 };
export const FAULT_COLOURS = { loop: 'var(--bad)', double: 'var(--warn)' };
export const FAULT_SIGNS = { loop: '⟳', double: '⇉' };

export const widthOf = (kind: FlowKind, fault: Fault): number => WIDTHS[kind] + (fault ? 2 : 0);
export function colourOf(kind: FlowKind, fault: Fault): string {
  if (fault) return FAULT_COLOURS[fault];
  return kind === 'key' ? 'var(--rope)' : 'var(--ink)';
}
