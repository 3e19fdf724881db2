import type { CallName } from '@kleidon/api';
import type { SentBody } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';
import type { Pool } from './pool.ts';
import type { Source } from './states.ts';
import type { Sent, Tasks } from './tasks.ts';

/** A call whose answer is computed as a whole. */
export interface CallJob {
  readonly is: 'call';
  readonly call: CallName;
  readonly path: unknown;
  readonly query: unknown;
  readonly body?: SentBody | undefined;
  readonly accept?: string | undefined;
  readonly takesGzip: boolean;
}

interface TaskJob {
  readonly is: 'task';
  readonly task: keyof Tasks;
  readonly input: unknown;
}

export type Job = CallJob | TaskJob;

/** An answer as it is sent. */
export interface EncodedAnswer {
  readonly type: string;
  readonly encoding: 'gzip' | null;
  readonly bytes: Uint8Array;
}

/** Asks the threads that compute. */
export interface Analyses {
  call(site: string, call: Omit<CallJob, 'is'>, signal?: AbortSignal): Promise<EncodedAnswer>;
  task<Name extends keyof Tasks>(
    name: Name,
    site: string,
    input: Parameters<Tasks[Name]>[0],
    signal?: AbortSignal,
  ): Promise<ReturnType<Tasks[Name]>>;
}

export const analysesIn = (pool: Pool): Analyses => ({
  call: (site, call, signal) =>
    pool.run(site, { is: 'call', ...call } satisfies Job, signal) as Promise<EncodedAnswer>,
  task: async <Name extends keyof Tasks>(
    task: Name,
    site: string,
    input: Parameters<Tasks[Name]>[0],
    signal?: AbortSignal,
  ) =>
    (await pool.run(site, { is: 'task', task, input } satisfies Job, signal)) as ReturnType<
      Tasks[Name]
    >,
});

/** The result of a task; otherwise this, where it takes too long. */
export const unlessTooSlow = <T, U>(result: Promise<T>, otherwise: U): Promise<T | U> =>
  result.catch((error: unknown) => {
    if (error instanceof Problem && error.code === 'too-slow') return otherwise;
    throw error;
  });

/** A source as it is sent to a thread, which has the texts of its lists. */
export const sentOf = ({ text, hashes }: Source): Sent => ({ text, lists: [...hashes] });
