// npm run openapi: docs/schema/openapi.json, a description of the HTTP interface (OpenAPI 3.1), read off the routes in
// server/http by the TypeScript compiler: paths and methods, what `check` reads of a request, what `res.json` answers with.
// --check says whether the file is still what the routes say.
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { format, resolveConfig } from 'prettier';
import { createGenerator } from 'ts-json-schema-generator';
import ts from 'typescript';
import { ROOT } from './lib.mjs';
import { modern } from './schemas.mjs';

const METHODS = new Set(['get', 'post', 'put', 'patch', 'delete']);
const HTTP = join(ROOT, 'server/http');
const APP = join(ROOT, 'server/app.ts');
const FILE = join(ROOT, 'docs/schema/openapi.json');

/** Calls everything inside of a node, but not what other functions of the same kind have. */
function walk(node, see) {
  ts.forEachChild(node, (child) => {
    if (see(child) !== false) walk(child, see);
  });
}
const nameOf = (call) => (ts.isPropertyAccessExpression(call.expression) ? call.expression.name.text : '');
const callee = (call) => (ts.isIdentifier(call.expression) ? call.expression.text : '');
const textOf = (node) => (node && ts.isStringLiteralLike(node) ? node.text : null);

/** The comment above a route, as one line. */
function commentOf(node, source) {
  const ranges = ts.getLeadingCommentRanges(source.text, node.getFullStart()) ?? [];
  const doc = ranges.map((r) => source.text.slice(r.pos, r.end)).find((c) => c.startsWith('/**'));
  return (doc ?? '')
    .replace(/^\/\*\*|\*\/$/g, '')
    .split('\n')
    .map((line) => line.replace(/^\s*\*\s?/, '').trim())
    .filter((line) => line && !line.startsWith('@'))
    .join(' ')
    .trim();
}

/** Every function of server/http that makes routes: its own ones, and the functions whose routes it takes in. */
function routers(program) {
  const found = new Map();
  for (const file of readdirSync(HTTP).filter((f) => f.endsWith('.ts'))) {
    const source = program.getSourceFile(join(HTTP, file));
    for (const fn of source.statements.filter(ts.isFunctionDeclaration)) {
      const made = { own: [], taken: [] };
      walk(fn, (node) => {
        if (!ts.isCallExpression(node) || !ts.isPropertyAccessExpression(node.expression)) return true;
        const of = node.expression.expression.getText(source);
        if (of !== 'router') return true;
        const method = nameOf(node);
        const path = textOf(node.arguments[0]);
        if (method === 'use') made.taken.push(...node.arguments.filter(ts.isCallExpression).map(callee));
        else if (METHODS.has(method) && path !== null) {
          made.own.push({ method, path, handler: node.arguments.at(-1), node: node.parent, source });
        }
        return true;
      });
      if (made.own.length || made.taken.length) found.set(fn.name.text, made);
    }
  }
  return found;
}

/** Where each of those functions stands in the program: its path. */
function mounted(program) {
  const source = program.getSourceFile(APP);
  const places = [];
  const alone = [];
  walk(source, (node) => {
    if (!ts.isCallExpression(node) || !ts.isPropertyAccessExpression(node.expression)) return true;
    if (node.expression.expression.getText(source) !== 'app') return true;
    const path = textOf(node.arguments[0]);
    if (!path?.startsWith('/api')) return true;
    if (nameOf(node) === 'use') {
      for (const fn of node.arguments.filter(ts.isCallExpression)) places.push({ path, fn: callee(fn) });
    } else if (METHODS.has(nameOf(node))) {
      alone.push({ method: nameOf(node), path, handler: node.arguments.at(-1), node: node.parent, source });
    }
    return true;
  });
  return { places, alone };
}

/** All routes with their whole paths. */
function everyRoute(program) {
  const known = routers(program);
  const { places, alone } = mounted(program);
  const all = [...alone];
  const take = (fn, prefix) => {
    const made = known.get(fn);
    if (!made) return;
    for (const route of made.own) {
      all.push({ ...route, path: prefix + (route.path === '/' ? '' : route.path) });
    }
    for (const inner of made.taken) take(inner, prefix);
  };
  for (const { fn, path } of places) take(fn, path);
  return all;
}

/** The name of the type of an answer, with [] for each list around it; null where it has none. */
function typeName(checker, node) {
  const inner = ts.isSatisfiesExpression(node) ? node.type : node;
  let type = ts.isTypeNode(inner) ? checker.getTypeFromTypeNode(inner) : checker.getTypeAtLocation(inner);
  let lists = '';
  while (checker.isArrayType(type)) {
    type = checker.getTypeArguments(type)[0];
    lists += '[]';
  }
  if (type.flags & ts.TypeFlags.StringLike) return `string${lists}`;
  const symbol = type.aliasSymbol ?? type.getSymbol();
  const name = symbol?.getName();
  return name && !name.startsWith('__') ? name + lists : null;
}

/** Functions of a file by their names. */
function helpersIn(source) {
  const found = new Map();
  for (const statement of source.statements) {
    if (ts.isFunctionDeclaration(statement)) found.set(statement.name.text, statement);
    if (!ts.isVariableStatement(statement)) continue;
    for (const { name, initializer } of statement.declarationList.declarations) {
      if (initializer && ts.isArrowFunction(initializer)) found.set(name.getText(source), initializer);
    }
  }
  return found;
}

/** What a handler reads of a request and answers with. */
function readHandler(checker, { handler, source }) {
  const said = { body: null, query: null, answers: [], isEmpty: false, hasBytes: false, hasText: false };
  const helpers = helpersIn(source);
  let text = '';
  const read = (node) => {
    text += node.getText(source);
    walk(node, see);
  };
  const see = (node) => {
    if (!ts.isCallExpression(node)) return true;
    // what is done by a function of the same file that is given the request or the answer
    const helper = helpers.get(callee(node));
    if (helper && node.arguments.some((a) => /^re[qs]$/.test(a.getText(source)))) {
      helpers.delete(callee(node));
      read(helper);
    }
    if (callee(node) === 'check') {
      const [dto, from] = node.arguments;
      if (from.getText(source).includes('req.query')) said.query = dto.getText(source);
      else said.body = dto.getText(source);
    }
    if (nameOf(node) === 'json' && node.expression.getText(source).startsWith('res')) {
      const status = /status\((\d+)\)/.exec(node.expression.getText(source))?.[1] ?? '200';
      said.answers.push({ status, type: typeName(checker, node.arguments[0]) });
    }
    return true;
  };
  read(handler);
  said.isEmpty = /status\(204\)/.test(text);
  said.hasText = text.includes('text/event-stream');
  said.hasBytes = !said.answers.length && !said.isEmpty && !said.hasText;
  said.takesBytes = !said.body && /withSentFile|req\.body|\bbody\b/.test(text);
  said.ifMatch = /ifMatch\(req\)/.test(text);
  return said;
}

/** Schemas of the named types: of the contract, the model, and what requests are checked against. */
function schemasFor(names) {
  const from = [
    join(HTTP, 'dto.ts'),
    join(ROOT, 'contract/index.ts'),
    join(ROOT, 'core/model/types.ts'),
    join(ROOT, 'core/model/hardware.ts'),
  ];
  const all = {};
  const left = new Set(names);
  for (const path of from) {
    const generator = createGenerator({
      path,
      tsconfig: join(ROOT, 'tsconfig.server.json'),
      skipTypeCheck: true,
      additionalProperties: true,
      encodeRefs: true,
    });
    for (const name of [...left]) {
      try {
        Object.assign(all, generator.createSchema(name).definitions);
        left.delete(name);
      } catch {
        // it is in another file
      }
    }
  }
  return { schemas: all, without: left };
}

/** A name as it may stand among the components: letters, digits, dots, dashes and underlines. */
const plain = (name) => decodeURIComponent(name).replace(/[^\w.-]+/g, '_');
/** References of the generator as those of OpenAPI. */
function referring(value) {
  if (Array.isArray(value)) return value.map(referring);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, inner]) =>
      key === '$ref'
        ? [key, `#/components/schemas/${plain(String(inner).replace(/^#\/(\$defs|definitions)\//, ''))}`]
        : [key, referring(inner)],
    ),
  );
}

const ofType = (name, known) => {
  if (!name) return {};
  const [, one, lists] = /^(.*?)((?:\[\])*)$/.exec(name);
  const item = one === 'string' ? { type: 'string' } : known(one);
  return Array.from({ length: lists.length / 2 }).reduce(
    (schema) => ({ type: 'array', items: schema }),
    item,
  );
};

function parametersOf({ path }, said, schemas) {
  const inPath = [...path.matchAll(/:(\w+)/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const ifMatch = { name: 'If-Match', in: 'header', required: true, schema: { type: 'string' } };
  const query = said.query ? (schemas[said.query]?.properties ?? {}) : {};
  const inQuery = Object.entries(query).map(([name, schema]) => ({
    name,
    in: 'query',
    schema: referring(schema),
  }));
  return [...inPath, ...(said.ifMatch ? [ifMatch] : []), ...inQuery];
}

function responsesOf(said, known) {
  const json = (schema) => ({ 'application/json': { schema } });
  const responses = {};
  for (const { status, type } of said.answers) {
    responses[status] = { description: 'Done', content: json(ofType(type, known)) };
  }
  if (said.isEmpty) responses[204] = { description: 'Done; there is nothing to say' };
  if (said.hasText) {
    responses[200] = {
      description: 'News as they come',
      content: { 'text/event-stream': { schema: { type: 'string' } } },
    };
  }
  if (said.hasBytes) responses[200] = { description: 'A file', content: { '*/*': { schema: {} } } };
  responses.default = {
    description: 'What is wrong, and the way out (RFC 9457)',
    content: { 'application/problem+json': { schema: known('ProblemBody') } },
  };
  return responses;
}

/** The whole description. */
export function makeOpenApi() {
  const config = ts.readConfigFile(join(ROOT, 'tsconfig.server.json'), ts.sys.readFile).config;
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, ROOT);
  const program = ts.createProgram([APP], options);
  const checker = program.getTypeChecker();
  const routes = everyRoute(program).map((route) => ({ route, said: readHandler(checker, route) }));
  const answered = routes.flatMap((r) => r.said.answers.map((a) => a.type?.replace(/(\[\])+$/, '')));
  const asked = routes.flatMap((r) => [r.said.body, r.said.query]);
  const names = new Set([...answered, ...asked, 'ProblemBody'].filter((n) => n && n !== 'string'));
  const { schemas, without } = schemasFor(names);
  const known = (name) => (without.has(name) ? {} : { $ref: `#/components/schemas/${plain(name)}` });
  const paths = {};
  for (const { route, said } of routes) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    const isPatch = route.method === 'patch' && route.path.startsWith('/api/sessions');
    const type = isPatch ? 'application/json-patch+json' : 'application/json';
    const takes = said.body
      ? { [type]: { schema: isPatch ? { type: 'array', items: { type: 'object' } } : known(said.body) } }
      : { '*/*': { schema: {} } };
    const about = commentOf(route.node, route.source);
    paths[path] ??= {};
    paths[path][route.method] = {
      operationId: `${route.method}${path.replace(/^\/api/, '').replace(/[^\w]+(\w)?/g, (_, c) => (c ?? '').toUpperCase())}`,
      ...(about ? { summary: about } : {}),
      parameters: parametersOf(route, said, schemas),
      ...(route.method !== 'get' && (said.body || said.takesBytes)
        ? { requestBody: { content: takes } }
        : {}),
      responses: responsesOf(said, known),
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Rope Shelf',
      version: '1',
      description:
        'A shelf of track and channel-strip presets, the sessions that they are dropped into, and what is printed of those.',
    },
    servers: [{ url: '/' }],
    paths: Object.fromEntries(Object.entries(paths).sort(([a], [b]) => (a < b ? -1 : 1))),
    components: {
      schemas: Object.fromEntries(
        Object.entries(schemas)
          .map(([name, schema]) => [plain(name), referring(modern(schema))])
          .sort(([a], [b]) => (a < b ? -1 : 1)),
      ),
    },
  };
}

if (process.argv[1] === import.meta.filename) {
  const text = await format(JSON.stringify(makeOpenApi()), {
    ...(await resolveConfig(FILE)),
    parser: 'json',
  });
  if (process.argv[2] !== '--check') writeFileSync(FILE, text);
  else if (!existsSync(FILE) || readFileSync(FILE, 'utf8') !== text) {
    console.error('docs/schema/openapi.json is not what the routes say: npm run openapi');
    process.exitCode = 1;
  }
}
