import pino from 'pino';

/**
 * The server's log: one line of JSON an event, never a body. Quiet unless something happens; `LOG_LEVEL=debug`
 * shows every request.
 */
export const log = pino({ level: process.env.LOG_LEVEL ?? 'info', base: undefined });
