declare module '*.vue' {
  import type { DefineComponent } from 'vue';
  const component: DefineComponent<Record<string, unknown>, Record<string, unknown>, unknown>;
  export default component;
}
declare module '*?worker&url' {
  const url: string;
  export default url;
}
declare module '*?raw' {
  const text: string;
  export default text;
}
declare module '*?worker' {
  const W: new () => Worker;
  export default W;
}
