import { createPinia } from 'pinia';
import { createApp } from 'vue';
import '../style.css';
import App from './App.vue';
import { useUi } from '../ui/window.ts';
import { beginFirst, makeRouter } from './router.ts';

const app = createApp(App);
const router = makeRouter();
app.use(createPinia()).use(router);
const first = beginFirst(router);
// what nobody expected is told, too: whoever pressed something waits for it
app.config.errorHandler = (e) => {
  console.error(e);
  useUi().fail(e);
};
void first.then(() => app.mount('#app'));
