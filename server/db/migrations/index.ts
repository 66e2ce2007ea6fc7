export { First1795571829488 } from './0001-first.ts';
