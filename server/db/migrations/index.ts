export { First1795571829488 } from './0001-first.ts';
export { Defaults1795593600000 } from './0002-defaults.ts';
export { Uses1795780800000 } from './0003-uses.ts';
export { Setups1795900000000 } from './0004-setups.ts';
export { Jobs1796000000000 } from './0005-jobs.ts';
export { History1796100000000 } from './0006-history.ts';
export { Words1796200000000 } from './0007-words.ts';
export { Fingerprints1796300000000 } from './0008-fingerprints.ts';
