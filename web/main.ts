import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { createRouter, createWebHistory } from 'vue-router';
import './style.css';
import App from './App.vue';

const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/sessions' },
    { path: '/sessions', component: () => import('./sessions/SessionsScreen.vue') },
    { path: '/session/:id', component: () => import('./session/SessionScreen.vue') },
    { path: '/session/:id/map', component: () => import('./map/MapScreen.vue') },
    { path: '/session/:id/check', component: () => import('./check/CheckScreen.vue') },
    { path: '/shelf/:id?', component: () => import('./shelf/ShelfScreen.vue') },
    { path: '/:rest(.*)*', redirect: '/sessions' },
  ],
});

const app = createApp(App);
app.config.errorHandler = (e) => {
  console.error(e);
};
app.use(createPinia()).use(router).mount('#app');
