// ESLint rules of this house: imports point down its list of folders, and never in a circle.
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { dirname, join, relative, resolve, sep } from 'node:path';

const ROOT = resolve(import.meta.dirname, '../..');
const SKIPPED = new Set(['node_modules', 'dist', '.data', '.git', 'coverage', 'docs', 'public', 'kernels']);

/** Top to bottom: a folder may import what stands below it, never what stands above. */
const ORDER = [
  'web/app',
  'web/features',
  'web/document',
  'web/audio',
  'web/api',
  'web/ui',
  'server',
  'server/http',
  'server/packs',
  'server/jobs',
  'server/accounts',
  'server/db',
  'server/work',
  'demo',
  'contract',
  'core/formats',
  'core/check',
  'core/fit',
  'core/kit',
  'core/shelf',
  'core/drop',
  'core/print',
  'core/hardware',
  'core/measure',
  'core/engine',
  'core/edit',
  'core/session',
  'core/devices',
  'core/model',
];
/** Neighbours that know nothing of each other, though one stands above the other in the list. */
const STRANGERS = [
  ['web', 'server'],
  ['web', 'demo'],
];
const PURE = /^(node:|vue|pinia|express|typeorm|class-)/;

const path = (file) => relative(ROOT, file).split(sep).join('/');
const inside = (file, folder) => file === folder || file.startsWith(folder + '/');
const isTest = (file) => /\.test\.ts$|^tests\//.test(file);

/** The place of a file in the order: the longest folder that it lies in; -1 outside. */
function placeOf(file) {
  let best = -1;
  ORDER.forEach((folder, i) => {
    if (inside(file, folder) && (best < 0 || folder.length > ORDER[best].length)) best = i;
  });
  return best;
}

/** The feature of the interface that a file belongs to. */
const featureOf = (file) => /^web\/features\/([^/]+)\//.exec(file)?.[1] ?? null;

/** What is wrong with an import, in words; null when nothing is. */
function complaint(from, to) {
  const [a, b] = [placeOf(from), placeOf(to)];
  if (a >= 0 && b >= 0 && b < a) return `${ORDER[a]} may not import from ${ORDER[b]}: arrows point down.`;
  if (STRANGERS.some(([x, y]) => inside(from, x) && inside(to, y))) return `${from} may not know of ${to}.`;
  if (inside(from, 'core') && to === 'core/index.ts') return 'The core imports its own files, not its index.';
  const [mine, theirs] = [featureOf(from), featureOf(to)];
  if (theirs && theirs !== mine && mine && to !== `web/features/${theirs}/index.ts`) {
    return `A feature imports another one’s index.ts, not its insides (${to}).`;
  }
  return null;
}

/** The specifiers of a file's imports and re-exports, read as text: types count too. */
function specifiersOf(file) {
  const text = readFileSync(file, 'utf8');
  return [
    ...text.matchAll(/^\s*(?:import|export)\s[^;'"]*?from\s*'(\.[^']+)'|^\s*import\s*'(\.[^']+)'/gm),
  ].map((m) => (m[1] ?? m[2]).replace(/\?.*$/, ''));
}

function filesIn(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((e) => {
    if (SKIPPED.has(e.name)) return [];
    const at = join(folder, e.name);
    if (e.isDirectory()) return filesIn(at);
    return /\.(ts|vue)$/.test(e.name) && !/\.test\.ts$/.test(e.name) ? [at] : [];
  });
}

let circles = null;
/** File → number of its circle (strongly connected files, after Tarjan 1972); files in none are left out. */
function circleOf(file) {
  circles ??= findCircles();
  return circles.get(file);
}

function findCircles() {
  const graph = new Map();
  for (const top of ['core', 'contract', 'server', 'web', 'demo']) {
    if (!existsSync(join(ROOT, top))) continue;
    for (const f of filesIn(join(ROOT, top))) {
      graph.set(
        f,
        specifiersOf(f).map((s) => resolve(dirname(f), s)),
      );
    }
  }
  const found = new Map();
  const [index, low, open, stack] = [new Map(), new Map(), new Set(), []];
  let circle = 0;
  const visit = (f) => {
    index.set(f, index.size);
    low.set(f, index.get(f));
    stack.push(f);
    open.add(f);
    for (const to of graph.get(f)) {
      if (!graph.has(to)) continue;
      if (!index.has(to)) visit(to);
      if (open.has(to)) low.set(f, Math.min(low.get(f), low.get(to)));
    }
    if (low.get(f) !== index.get(f)) return;
    const members = stack.splice(stack.indexOf(f));
    members.forEach((m) => open.delete(m));
    if (members.length > 1) {
      circle++;
      members.forEach((m) => found.set(m, circle));
    }
  };
  for (const f of graph.keys()) if (!index.has(f)) visit(f);
  return found;
}

/** Calls `look` with every import or re-export of a file and the file that it leads to. */
function eachImport(context, look) {
  const from = context.filename;
  const see = (node) => {
    const spec = node.source?.value;
    if (typeof spec === 'string') look(node, spec, resolve(dirname(from), spec.replace(/\?.*$/, '')));
  };
  return {
    ImportDeclaration: see,
    ExportNamedDeclaration: see,
    ExportAllDeclaration: see,
    ImportExpression: see,
  };
}

const arrows = {
  meta: { type: 'problem', schema: [] },
  create(context) {
    const from = path(context.filename);
    if (isTest(from)) return {};
    return eachImport(context, (node, spec, to) => {
      if (inside(from, 'core') && PURE.test(spec)) {
        context.report({ node, message: 'The core is pure: no Node, no interface, no database.' });
      }
      const wrong = spec.startsWith('.') ? complaint(from, path(to)) : null;
      if (wrong) context.report({ node, message: wrong });
    });
  },
};

const noCircles = {
  meta: { type: 'problem', schema: [] },
  create(context) {
    const mine = circleOf(context.filename);
    if (!mine) return {};
    return eachImport(context, (node, spec, to) => {
      if (node.type === 'ImportExpression') return;
      if (spec.startsWith('.') && circleOf(to) === mine) {
        context.report({
          node,
          message: `${path(to)} imports this file again, directly or by way of others.`,
        });
      }
    });
  },
};

export default { rules: { arrows, 'no-circles': noCircles } };
