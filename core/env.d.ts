// The few globals that every place the core runs in (browser, worker, worklet, Node) shares; no DOM and no
// Node types here.
declare const performance: { now(): number };
declare class MessageChannel {
  readonly port1: Port;
  readonly port2: Port;
}
interface Port {
  addEventListener(type: 'message', f: () => void): void;
  start(): void;
  postMessage(m: unknown): void;
  close(): void;
}
declare function setTimeout(f: () => void, ms: number): unknown;
interface AbortSignal {
  readonly aborted: boolean;
}
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(data: Uint8Array): string;
}
declare class TextEncoder {
  encode(text: string): Uint8Array;
}
