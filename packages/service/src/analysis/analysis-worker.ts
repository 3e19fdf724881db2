import { MessagePort, parentPort, workerData } from 'node:worker_threads';
import { gzipSync } from 'node:zlib';
import Negotiator from 'negotiator';
import type { CallName } from '@kleidon/api';
import { bodyReader, TextAnswer } from '../calls/call.ts';
import { CALLS } from '../calls/description.ts';
import { problemFrom } from '../calls/problem.ts';
import { readDatabase } from '../store/database.ts';
import { pendingEdits } from '../store/pending-edits.ts';
import { recordStore } from '../store/records.ts';
import { siteStore } from '../store/sites.ts';
import { answers } from './answers.ts';
import { changes } from './changes.ts';
import { comparison } from './comparison.ts';
import type { CallJob, EncodedAnswer, Job } from './analyses.ts';
import { keepPlans } from './plans.ts';
import type { Outcome } from './pool.ts';
import { tellReady } from './ready.ts';
import { reach } from './reach.ts';
import { redirects } from './redirects.ts';
import type { Analysis } from './source.ts';
import { keepStates } from './states.ts';
import { tasks, toJson } from './tasks.ts';

/** Computes what calls and tasks ask, one after the other. */
const db = readDatabase(workerData as string);
const sites = siteStore(db);
const context: Analysis = {
  // What the store remembers of releases is out of date once another thread has made one.
  sites: { ...sites, liveNumber: (site) => sites.summary(site)?.number ?? null },
  pending: pendingEdits(db),
  records: recordStore(db),
  states: keepStates(),
  plans: keepPlans(),
  now: () => Date.now(),
};
const CALLED = {
  ...answers(context),
  ...reach(context),
  ...comparison(context),
  ...redirects(context),
  ...changes(context),
};
const TASKS = tasks(context);

/** From how many bytes on an answer is compressed. */
const LONG = 64 * 1024;

function answerOf({ call: name, path, query, body, accept, takesGzip }: CallJob): EncodedAnswer {
  const analyse = (CALLED as Readonly<Record<string, (call: unknown) => unknown>>)[name]!;
  const negotiator = new Negotiator({ headers: { accept } });
  const answer = analyse({
    path,
    query,
    body: body === undefined ? undefined : readerOf(name)(body),
    prefers: (...types: string[]) => negotiator.mediaType(types),
  });
  const isText = answer instanceof TextAnswer;
  const bytes = isText ? new TextEncoder().encode(answer.text) : toJson(answer);
  const isLong = takesGzip && bytes.length > LONG;
  return {
    type: `${isText ? answer.type : 'application/json'}; charset=utf-8`,
    encoding: isLong ? 'gzip' : null,
    bytes: isLong ? gzipSync(bytes, { level: 1 }) : bytes,
  };
}

const readers = new Map<CallName, ReturnType<typeof bodyReader>>();
function readerOf(name: CallName): ReturnType<typeof bodyReader> {
  const known = readers.get(name) ?? bodyReader(CALLS.get(name)!);
  readers.set(name, known);
  return known;
}

function outcomeOf(job: Job): Outcome {
  try {
    // What one job reads of the database is of one moment.
    const value = db.transaction(() =>
      job.is === 'call'
        ? answerOf(job)
        : (TASKS[job.task] as (input: unknown) => unknown)(job.input),
    )();
    return { is: 'done', value };
  } catch (error) {
    const problem = problemFrom(error);
    if (problem.code !== 'own-fault') {
      const { code, message, more } = problem;
      return { is: 'problem', code, message, more };
    }
    const { message, stack } = error as Error;
    return { is: 'failed', message, stack };
  }
}

parentPort!.on('message', (job: Job) => {
  const outcome = outcomeOf(job);
  const value = outcome.is === 'done' ? outcome.value : null;
  parentPort!.postMessage(outcome, value instanceof MessagePort ? [value] : []);
});

tellReady();
