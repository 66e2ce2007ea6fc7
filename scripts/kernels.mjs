// Compiles the SIMD kernels (kernels/index.ts, AssemblyScript) and writes them as a module that runs
// everywhere without a fetch, a worklet included. Skipped while the sources are the same.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, fail } from './lib.mjs';

const SOURCES = readdirSync(join(ROOT, 'kernels'))
  .filter((file) => file.endsWith('.ts'))
  .sort()
  .map((file) => join(ROOT, 'kernels', file));
const OUT = join(ROOT, 'core/devices/kernels/wasm.gen.ts');

/** @returns true when something was compiled */
export async function kernels() {
  const hash = createHash('sha256');
  for (const file of [...SOURCES, import.meta.filename]) hash.update(readFileSync(file));
  const stamp = hash.digest('hex').slice(0, 16);
  if (existsSync(OUT) && readFileSync(OUT, 'utf8').includes(stamp)) return false;
  const asc = await import('assemblyscript/asc');
  const file = join(ROOT, 'dist/kernels.wasm');
  mkdirSync(join(ROOT, 'dist'), { recursive: true });
  const compile = async (...more) => {
    const { error, stderr } = await asc.main([
      'kernels/index.ts',
      '--baseDir',
      ROOT,
      '--outFile',
      'dist/kernels.wasm',
      '-O3',
      '--converge',
      '--noAssert',
      '--runtime',
      'stub',
      '--importMemory',
      '--memoryBase',
      '128',
      '--enable',
      'simd',
      '--enable',
      'nontrapping-f2i',
      ...more,
    ]);
    if (error) throw new Error(`The kernels could not be compiled: ${error.message}\n${stderr.toString()}`);
    return [...readFileSync(file)];
  };
  const fused = await compile('--enable', 'relaxed-simd');
  const plain = await compile();
  const sizes = `${fused.length} and ${plain.length} bytes of WebAssembly, the first with fused multiply-add`;
  const head = `/** Made by scripts/kernels.mjs from kernels/index.ts (${stamp}): ${sizes}; not kept in the repository. */`;
  const bytes = [fused, plain].map((binary) => `new Uint8Array([${binary.join(',')}])`);
  writeFileSync(OUT, `${head}\nexport const BINARIES = [${bytes.join(', ')}];\n`);
  return true;
}

if (process.argv[1] === import.meta.filename) kernels().catch(fail);
