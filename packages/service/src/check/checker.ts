import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import type { model, queries } from '@kleidon/core';

/** A site file, with the lists beside it, and the moment for which it is checked. */
export interface ToCheck {
  readonly text: string;
  /** What is done to the text first: that may take as long as the check. */
  readonly patch: readonly model.PatchOperation[];
  /** What the file was before, of which it is told what changed; null where there was none. */
  readonly before: string | null;
  readonly lists: readonly (readonly [name: string, text: string])[];
  readonly file: string;
  readonly at: number;
}

/** What is wrong with a site file, or looks wrong. */
export interface Checked {
  /** What was checked: the site file with the patch applied. */
  readonly text: string;
  /** The name of the site; null where the file has errors. */
  readonly name: string | null;
  readonly errors: readonly queries.ExplainedError[];
  readonly findings: readonly model.Finding[];
  readonly guarantees: readonly queries.ListedGuarantee[];
  readonly visits: readonly queries.MadeVisit[];
  /** What was changed, a sentence each. */
  readonly says: readonly string[];
}

/** Why a patch could not be applied. */
export interface NotPatched {
  /** The place of the operation in the patch, from 0. */
  readonly operation: number;
  readonly message: string;
}

/** What the thread says once it can check. */
export const READY = 'ready';

/** Checks site files beside everything else that the service does. */
export interface Checker {
  /** @returns null where the check takes too long, or more memory than there is */
  check(file: ToCheck): Promise<Checked | NotPatched | null>;
  close(): Promise<void>;
}

/** @param timeout how long one check may take, in milliseconds */
export function checkerWithin(timeout: number, log: Logger): Checker {
  let worker: Worker | null = null;
  let last: Promise<unknown> = Promise.resolve();
  const start = (): Worker => {
    const started = new Worker(new URL('./check-worker.js', import.meta.url), {
      resourceLimits: { maxOldGenerationSizeMb: 2048 },
    });
    started.unref();
    return started;
  };
  const once = (file: ToCheck): Promise<Checked | NotPatched | null> =>
    new Promise((resolve) => {
      const isStarted = worker !== null;
      const current = (worker ??= start());
      const giveUp = (why: unknown): void => {
        log.warn({ err: why, file: file.file }, 'the check of a site file was given up');
        settle(null);
        worker = null;
        void current.terminate();
      };
      let timer: NodeJS.Timeout | undefined;
      const begin = (): void => {
        timer = setTimeout(() => giveUp(null), timeout);
      };
      const take = (message: Checked | NotPatched | typeof READY): void => {
        if (message === READY) begin();
        else settle(message);
      };
      const settle = (checked: Checked | NotPatched | null): void => {
        clearTimeout(timer);
        for (const event of ['error', 'exit'] as const) current.off(event, giveUp);
        current.off('message', take);
        current.unref();
        resolve(checked);
      };
      // What a check does not survive, such as a want of memory, is no answer either.
      current.on('error', giveUp);
      current.on('exit', giveUp);
      current.on('message', take);
      if (isStarted) begin();
      current.ref();
      current.postMessage(file);
    });
  return {
    // One after the other: a check has its whole time.
    check: (file) => {
      const checked = last.then(() => once(file));
      last = checked.catch(() => null);
      return checked;
    },
    close: async () => {
      await worker?.terminate();
    },
  };
}
