import { Worker } from 'node:worker_threads';
import type { FromProbe, ProbeJob, ProbeProgress, Searched, Visited } from './job.ts';

/** What a run came to. */
export interface ProbeResult {
  /** null where nothing was tried. */
  readonly visited: Visited | null;
  /** null where pages were not looked for, or not to the end. */
  readonly searched: Searched | null;
  /** Why something is lacking; null where nothing is. */
  readonly failure: string | null;
}

/** A run that goes on. */
export interface RunningProbe {
  readonly progress: () => ProbeProgress | null;
  readonly result: Promise<ProbeResult>;
  /** Ends it; its result says so. */
  stop(because: string): void;
}

/** What a website sends may be as much as it likes; beyond this, in megabytes, a run is given up. */
const MEMORY = 768;

/**
 * Makes one run of a probe in a thread of its own.
 * @param longest how long it may take, in milliseconds
 */
export function runProbe(job: ProbeJob, longest: number): RunningProbe {
  const worker = new Worker(new URL('./probe-worker.js', import.meta.url), {
    workerData: job,
    resourceLimits: { maxOldGenerationSizeMb: MEMORY },
  });
  worker.unref();
  let progress: ProbeProgress | null = null;
  let visited: Visited | null = null;
  let searched: Searched | null = null;
  let failure: string | null = null;
  const stop = (because: string): void => {
    failure ??= because;
    void worker.terminate();
  };
  const timer = setTimeout(
    () => stop(`It took longer than ${Math.round(longest / 60_000)} minutes.`),
    longest,
  );
  timer.unref();
  const result = new Promise<ProbeResult>((resolve) => {
    worker.on('message', (message: FromProbe) => {
      if (message.is === 'progress') ({ progress } = message);
      else if (message.is === 'visited') ({ visited } = message);
      else if (message.is === 'searched') ({ searched } = message);
      else failure ??= message.because;
    });
    worker.on('error', (error) => (failure ??= error.message));
    worker.on('exit', (code) => {
      clearTimeout(timer);
      if (code !== 0) failure ??= 'It ended without a result.';
      resolve({ visited, searched, failure });
    });
  });
  return { progress: () => progress, result, stop };
}
