import { readlinkSync } from 'node:fs';
import { basename } from 'node:path';
import { parentPort } from 'node:worker_threads';
import type { Ready } from './pool.ts';

/** Tells the pool that this thread can compute, and what the operating system calls it. */
export function tellReady(): void {
  let thread: string | null;
  try {
    thread = basename(readlinkSync('/proc/thread-self'));
  } catch {
    thread = null;
  }
  parentPort!.postMessage({ thread } satisfies Ready);
}
