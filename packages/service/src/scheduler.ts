import type { Logger } from 'pino';

/** Work that is done again and again. */
export interface Scheduler {
  /** Does the work now, and then every so many milliseconds. An error is logged, and the work tried again. */
  every(milliseconds: number, what: string, work: () => void): void;
  close(): void;
}

/** The same failure is logged once in so many milliseconds. */
const LOGGED_EVERY = 60_000;

/** Begins no work yet. */
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
