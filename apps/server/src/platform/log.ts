import pino, { type Logger } from 'pino';
import type { Config } from './config';

/** Logs as JSON lines. Secrets and the texts of messages are never handed to it. */
export function makeLog(level: Config['log']): Logger {
  return pino({
    level,
    base: undefined,
    redact: {
      paths: ['token', 'secret', 'secrets', 'password', '*.token', '*.secrets'],
      censor: 'kept back',
    },
  });
}
