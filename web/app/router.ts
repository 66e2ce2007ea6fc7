import { promiseTimeout } from '@vueuse/core';
import { createRouter, createWebHistory, type Router, type RouteRecordRaw } from 'vue-router';
import { useSession } from '../document/doc.ts';
import { hasBegun } from '../features/welcome/index.ts';
import type { Place } from '../ui/commands.ts';

const screen = (path: string, name: Place, component: () => Promise<unknown>): RouteRecordRaw => ({
  path,
  name,
  component: component as RouteRecordRaw['component'] & object,
});

/** The screens; each is loaded when it is first gone to. */
export const makeRouter = () =>
  createRouter({
    history: createWebHistory(),
    routes: [
      { path: '/', redirect: () => (hasBegun() ? '/sessions' : '/welcome') },
      screen('/welcome', 'welcome', () => import('../features/welcome/WelcomeScreen.vue')),
      screen('/sessions', 'sessions', () => import('../features/sessions/SessionsScreen.vue')),
      screen('/session/:id', 'session', () => import('../features/session/SessionScreen.vue')),
      screen('/session/:id/map', 'map', () => import('../features/map/MapScreen.vue')),
      screen('/session/:id/check', 'check', () => import('../features/check/CheckScreen.vue')),
      screen('/session/:id/patch', 'patch', () => import('../features/hardware/PatchScreen.vue')),
      screen('/session/:id/print', 'print', () => import('../features/print/PrintScreen.vue')),
      screen('/prints/:id?', 'prints', () => import('../features/print/PrintsScreen.vue')),
      screen('/settings', 'settings', () => import('../features/settings/SettingsScreen.vue')),
      screen('/trash', 'trash', () => import('../features/packs/TrashScreen.vue')),
      screen('/hardware/:id?', 'hardware', () => import('../features/hardware/HardwareScreen.vue')),
      screen('/shelf/:id?', 'shelf', () => import('../features/shelf/ShelfScreen.vue')),
      { path: '/:rest(.*)*', redirect: '/sessions' },
    ],
  });

/** ms that a window may stay empty; from then on it shows the shell */
const EMPTY = 250;

/**
 * Asks for the code of the first screen, and for its session, before anything is drawn, and waits a moment for both: a
 * page that is drawn in one go is there sooner than one drawn bit by bit. Whatever comes of it, the screen asks again,
 * and says what went wrong.
 */
export async function beginFirst(router: Router): Promise<void> {
  const { matched, params } = router.resolve(location.pathname);
  const wanted: Promise<unknown>[] = [router.isReady()];
  for (const { components } of matched) {
    const code = components?.default as (() => Promise<unknown>) | undefined;
    if (code) wanted.push(code());
  }
  const isSession = matched.some(({ path }) => path.startsWith('/session/:id'));
  if (isSession) wanted.push(useSession().open(String(params.id)));
  await Promise.race([Promise.allSettled(wanted), promiseTimeout(EMPTY)]);
}
