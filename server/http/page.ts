import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RequestHandler } from 'express';

/** A file of the built interface, and those that it needs (Vite's manifest, by source). */
interface Chunk {
  file: string;
  imports?: string[];
}

const MANIFEST = '.vite/manifest.json';
const PAGE = 'index.html';
const SESSION_SCREEN = 'web/features/session/SessionScreen.vue';
const SESSION_PAGE = /^\/session\/([\w-]{1,64})(\/[a-z]+)?$/;

/**
 * The page of the interface, for every address that it has. With a session's page goes what its first screen takes
 * (RFC 8288, preload): a browser asks for the session and for the screen's code while it still reads the shell's.
 * @param client the folder of the built interface
 */
export function interfacePage(client: string): RequestHandler {
  const screen = linksOf(client, SESSION_SCREEN);
  return (req, res) => {
    res.setHeader('Cache-Control', 'no-cache');
    const [, id, place] = SESSION_PAGE.exec(req.path) ?? [];
    if (id) {
      const session = `</api/sessions/${id}>; rel=preload; as=fetch; crossorigin`;
      res.setHeader('Link', place ? [session] : [session, ...screen]);
    }
    res.sendFile(join(client, PAGE));
  };
}

/** What a screen needs beside what the page names itself. */
function linksOf(client: string, source: string): string[] {
  const path = join(client, MANIFEST);
  if (!existsSync(path)) return [];
  const chunks = JSON.parse(readFileSync(path, 'utf8')) as Record<string, Chunk>;
  const there = withImports(chunks, PAGE);
  const wanted = [...withImports(chunks, source)].filter((chunk) => !there.has(chunk));
  return wanted.map(({ file }) => `</${file}>; rel=modulepreload`);
}

function withImports(chunks: Record<string, Chunk>, source: string, found = new Set<Chunk>()): Set<Chunk> {
  const chunk = chunks[source] as Chunk | undefined;
  if (!chunk || found.has(chunk)) return found;
  found.add(chunk);
  for (const other of chunk.imports ?? []) withImports(chunks, other, found);
  return found;
}
