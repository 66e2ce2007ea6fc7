import { createPinia } from 'pinia';
import { createApp } from 'vue';
import '../style.css';
import App from './App.vue';
import { makeRouter } from './router.ts';

const app = createApp(App);
app.config.errorHandler = (e) => {
  console.error(e);
};
app.use(createPinia()).use(makeRouter()).mount('#app');
