/** The npm package ebur128-wasm (3.0.0): loudness and true peak after EBU R 128 by a program that is not ours. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';

interface Exports {
  memory: WebAssembly.Memory;
  __wbindgen_malloc(n: number): number;
  ebur128_integrated_stereo(fs: number, l: number, ln: number, r: number, rn: number): number;
  ebur128_true_peak_mono(fs: number, p: number, n: number): number;
}
const stub = () => 0;
const IMPORTS = {
  './ebur128_wasm_bg.js': {
    __wbg_new_693216e109162396: stub,
    __wbg_stack_0ddaca5d1abfb52f: stub,
    __wbg_error_09919627ac0992f5: stub,
    __wbindgen_object_drop_ref: stub,
  },
};

/** Its measures: integrated loudness of two channels in LUFS; true peak of one channel, as it gives it. */
export async function loadEbur128() {
  const bytes = readFileSync(createRequire(__filename).resolve('ebur128-wasm/ebur128_wasm_bg.wasm'));
  const w = (await WebAssembly.instantiate(bytes, IMPORTS)).instance.exports as unknown as Exports;
  const put = (x: Float32Array) => {
    const p = w.__wbindgen_malloc(x.length * 4);
    new Float32Array(w.memory.buffer).set(x, p / 4);
    return p;
  };
  return {
    integrated: (l: Float32Array, r: Float32Array, rate: number) =>
      w.ebur128_integrated_stereo(rate, put(l), l.length, put(r), r.length),
    truePeak: (x: Float32Array, rate: number) => w.ebur128_true_peak_mono(rate, put(x), x.length),
  };
}
