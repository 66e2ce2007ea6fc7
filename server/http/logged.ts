import type { RequestHandler } from 'express';
import { log } from '../db/log.ts';

/** One line a request, when it is over: what was asked, how it ended, how long it took. Never a body. */
export const logged: RequestHandler = (req, res, next) => {
  const began = performance.now();
  res.on('finish', () => {
    const ms = Math.round(performance.now() - began);
    const line = { method: req.method, path: req.originalUrl.split('?')[0], status: res.statusCode, ms };
    if (res.statusCode >= 500) log.warn(line, 'request');
    else log.debug(line, 'request');
  });
  next();
};
