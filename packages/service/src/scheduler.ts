import type { Logger } from 'pino';

/** Runs periodic work. */
export interface Scheduler {
  /**
   * Runs the work now and then periodically, never twice at once. Errors are logged and do not stop it.
   *
   * @returns when it has run for the first time
   */
  every(milliseconds: number, what: string, work: () => void | Promise<void>): Promise<void>;
  close(): void;
}

/** The interval between two log lines about the same work, in milliseconds. */
const LOGGED_EVERY = 60_000;

export function schedulerWith(log: Logger): Scheduler {
  const timers: NodeJS.Timeout[] = [];
  return {
    every: (milliseconds, what, work) => {
      let logged = -Infinity;
      let running: Promise<void> | null = null;
      const attempt = async (): Promise<void> => {
        try {
          await work();
        } catch (error) {
          if (Date.now() - logged < LOGGED_EVERY) return;
          logged = Date.now();
          log.error({ err: error }, `${what} failed; it is tried again`);
        }
      };
      const unlessRunning = (): Promise<void> =>
        (running ??= attempt().finally(() => (running = null)));
      timers.push(setInterval(() => void unlessRunning(), milliseconds).unref());
      return unlessRunning();
    },
    close: () => timers.forEach((timer) => clearInterval(timer)),
  };
}
