import type { Logger } from 'pino';

/** Runs periodic work. */
export interface Scheduler {
  /** Runs the work now and then periodically. Errors are logged and do not stop it. */
  every(milliseconds: number, what: string, work: () => void): void;
  close(): void;
}

/** The interval between two log lines about the same work, in milliseconds. */
const LOGGED_EVERY = 60_000;

export function schedulerWith(log: Logger): Scheduler {
  const timers: NodeJS.Timeout[] = [];
  return {
    every: (milliseconds, what, work) => {
      let logged = -Infinity;
      const attempt = (): void => {
        try {
          work();
        } catch (error) {
          if (Date.now() - logged < LOGGED_EVERY) return;
          logged = Date.now();
          log.error({ err: error }, `${what} failed; it is tried again`);
        }
      };
      attempt();
      timers.push(setInterval(attempt, milliseconds).unref());
    },
    close: () => timers.forEach((timer) => clearInterval(timer)),
  };
}
