import { parentPort } from 'node:worker_threads';
import type { Outcome } from '../../analysis/pool.ts';
import { tellReady } from '../../analysis/ready.ts';
import { UnclearPage } from './marked-page.ts';
import { readPage, type PageJob, type PageResult } from './page-reader.ts';

/** Beyond these, telling what was found would take longer than a visitor may wait. */
const MOST_MARKED = 20_000;

/** Finds what is marked in pages that are too long to be read between two requests. */
parentPort!.on('message', ({ content, kind }: PageJob) => {
  parentPort!.postMessage({ is: 'done', value: resultOf(content, kind) } satisfies Outcome);
});

function resultOf(content: Uint8Array, kind: PageJob['kind']): PageResult {
  try {
    const marked = readPage(content, kind);
    return marked.length <= MOST_MARKED
      ? { marked }
      : { unclear: `more than ${MOST_MARKED} places in it are marked` };
  } catch (error) {
    if (error instanceof UnclearPage) return { unclear: error.message };
    throw error;
  }
}

tellReady();
