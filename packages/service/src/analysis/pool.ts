import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { Problem } from '../calls/problem.ts';

/** The first message of a thread, once it can compute. */
export interface Ready {
  /** The id of the thread in the operating system; null where that is not known. */
  readonly thread: string | null;
}

/** The result of a job. */
export type Outcome =
  | { readonly is: 'done'; readonly value: unknown }
  | {
      readonly is: 'problem';
      readonly code: Problem['code'];
      readonly message: string;
      readonly more: Problem['more'];
    }
  | { readonly is: 'failed'; readonly message: string; readonly stack: string | undefined };

/**
 * Threads that compute what takes longer than a visitor may wait.
 *
 * Sites take turns, and one site never has all threads. Its jobs follow each other on one thread, which has read the
 * site already. Only where a job takes long, another thread takes the next one.
 */
export interface Pool {
  /**
   * @param site the site whose turn the job takes
   * @param signal aborts when the client leaves
   * @throws Problem of the job; `too-slow`, `too-busy`
   */
  run(site: string, job: unknown, signal?: AbortSignal): Promise<unknown>;
  close(): Promise<void>;
}

export interface PoolOptions {
  /** The program of the threads. */
  readonly program: URL;
  readonly workerData: unknown;
  /** How many threads there may be. They are started as they are needed. */
  readonly threads: number;
  /** CPU time of a job, in milliseconds. */
  readonly limit: number;
  /** Jobs that may wait, of one site and of all. */
  readonly mostWaiting: { readonly ofSite: number; readonly ofAll: number };
  /** The memory of a thread, in megabytes. */
  readonly memory: number;
  readonly log: Logger;
}

/** From how many milliseconds on a job takes long. */
const LONG = 1_000;
/** The CPU time of a job whose client has left, in milliseconds. It is not zero, because ending a thread loses its caches. */
const LEFT = 1_000;
/** The longest time of a job, as a multiple of its CPU time. */
const PATIENCE = 5;
/** A thread without a job ends after this time, in milliseconds: the sites that it has read take memory. */
const IDLE = 10 * 60_000;
/** The interval between two checks of the running jobs, in milliseconds. */
const LOOK_EVERY = 100;

interface Job {
  readonly site: string;
  readonly message: unknown;
  readonly settle: { resolve(value: unknown): void; reject(error: unknown): void };
  hasLeft: boolean;
}

interface Thread {
  readonly worker: Worker;
  /** null until the thread can compute. */
  ready: Ready | null;
  job: Job | null;
  /** When the job began: the time of day, and the CPU time of the thread. */
  begun: { readonly at: number; readonly cpu: number };
  /** The site of the last job. */
  site: string;
  idle?: NodeJS.Timeout;
}

export function poolOf({
  mostWaiting,
  program,
  workerData,
  threads: most,
  limit,
  memory,
  log,
}: PoolOptions): Pool {
  const threads = new Set<Thread>();
  /** In the order of their turns. */
  const waiting = new Map<string, Job[]>();
  let watch: NodeJS.Timeout | null = null;

  const cpuOf = (thread: Thread): number => cpuTime(thread.ready?.thread ?? null);

  const start = (): Thread => {
    const worker = new Worker(program, {
      workerData,
      resourceLimits: { maxOldGenerationSizeMb: memory },
    });
    const thread: Thread = { worker, ready: null, job: null, begun: { at: 0, cpu: 0 }, site: '' };
    worker.unref();
    worker.on('message', (message: Ready | Outcome) => {
      if ('is' in message) take(thread, message);
      else {
        thread.ready = message;
        if (thread.job) post(thread, thread.job);
      }
    });
    worker.on('error', (error: NodeJS.ErrnoException) => {
      log.warn({ err: error, site: thread.job?.site }, 'a thread of the analyses ended');
      const why =
        error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? new Problem('too-slow', `It needs more than ${memory} MB of memory.`)
          : error;
      end(thread, why);
    });
    worker.on('exit', () => end(thread, new Error('A thread of the analyses ended.')));
    threads.add(thread);
    return thread;
  };

  const post = (thread: Thread, job: Job): void => {
    clearTimeout(thread.idle);
    thread.begun = { at: Date.now(), cpu: cpuOf(thread) };
    thread.worker.postMessage(job.message);
  };

  const take = (thread: Thread, outcome: Outcome): void => {
    const { job } = thread;
    thread.job = null;
    thread.idle = setTimeout(() => end(thread, null), IDLE).unref();
    if (outcome.is === 'done') job?.settle.resolve(outcome.value);
    else if (outcome.is === 'problem')
      job?.settle.reject(new Problem(outcome.code, outcome.message, outcome.more));
    else job?.settle.reject(Object.assign(new Error(outcome.message), { stack: outcome.stack }));
    next();
  };

  /** Ends a thread. Its caches are lost. */
  const end = (thread: Thread, why: unknown): void => {
    if (!threads.delete(thread)) return;
    void thread.worker.terminate();
    thread.job?.settle.reject(why);
    next();
  };

  /** The thread that takes the next job of a site; null where the site has to wait. */
  const threadFor = (site: string): Thread | null => {
    const own = [...threads].filter(({ job }) => job?.site === site);
    const takesLong = ({ ready, begun }: Thread): boolean =>
      ready !== null && Date.now() - begun.at >= LONG;
    if (own.length >= Math.max(1, most - 1) || !own.every(takesLong)) return null;
    const free = [...threads].filter(({ job }) => job === null);
    const known = free.find((thread) => thread.site === site) ?? free[0];
    return known ?? (threads.size < most ? start() : null);
  };

  const next = (): void => {
    for (const [site, jobs] of [...waiting]) {
      const thread = threadFor(site);
      if (!thread) continue;
      const job = jobs.shift()!;
      // The site waits behind the others for its next turn.
      waiting.delete(site);
      if (jobs.length > 0) waiting.set(site, jobs);
      thread.job = job;
      thread.site = site;
      if (thread.ready) post(thread, job);
      watch ??= setInterval(look, LOOK_EVERY).unref();
    }
  };

  const look = (): void => {
    const running = [...threads].filter(({ job, ready }) => job && ready);
    if (running.length === 0 && threads.size > 0 && [...threads].every(({ job }) => !job)) {
      clearInterval(watch!);
      watch = null;
    }
    for (const thread of running) {
      const cpu = cpuOf(thread) - thread.begun.cpu;
      const took = Date.now() - thread.begun.at;
      const { site, hasLeft } = thread.job!;
      const longest = hasLeft ? Math.min(limit, LEFT) : limit;
      if (cpu < longest && took < longest * PATIENCE) continue;
      if (!hasLeft) log.warn({ site, cpu, took }, 'an analysis was given up');
      end(thread, new Problem('too-slow', `It takes longer than ${limit / 1000} seconds.`));
    }
    next();
  };

  const leave = (job: Job): void => {
    job.hasLeft = true;
    const jobs = waiting.get(job.site);
    const at = jobs?.indexOf(job) ?? -1;
    if (at === -1) return;
    jobs!.splice(at, 1);
    if (jobs!.length === 0) waiting.delete(job.site);
    job.settle.reject(new Problem('too-slow', 'The client has left.'));
  };

  return {
    run: (site, message, signal) =>
      new Promise((resolve, reject) => {
        const jobs = waiting.get(site) ?? [];
        const all = [...waiting.values()].reduce((sum, { length }) => sum + length, 0);
        if (jobs.length >= mostWaiting.ofSite || all >= mostWaiting.ofAll) {
          reject(new Problem('too-busy', `${all} questions about sites are waiting.`));
          return;
        }
        const job: Job = { site, message, settle: { resolve, reject }, hasLeft: false };
        waiting.set(site, [...jobs, job]);
        if (signal?.aborted) leave(job);
        else signal?.addEventListener('abort', () => leave(job), { once: true });
        next();
      }),
    close: async () => {
      if (watch) clearInterval(watch);
      waiting.clear();
      await Promise.all([...threads].map(({ worker }) => worker.terminate()));
    },
  };
}

/** The CPU time of a thread in milliseconds; the time of day where the operating system does not tell. */
function cpuTime(thread: string | null): number {
  if (thread === null) return Date.now();
  try {
    const [nanoseconds] = readFileSync(`/proc/self/task/${thread}/schedstat`, 'utf8').split(' ');
    return Number(nanoseconds) / 1e6;
  } catch {
    return Date.now();
  }
}
