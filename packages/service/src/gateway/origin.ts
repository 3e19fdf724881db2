import type { IncomingMessage } from 'node:http';
import type { Writable } from 'node:stream';
import { errors, Pool, type Dispatcher } from 'undici';
import type { RawFields } from './fields.ts';

/** The website did not answer as it should: 502 where it can't be reached, 504 where it takes too long. */
export class OriginProblem extends Error {
  constructor(
    readonly status: 502 | 504,
    cause: unknown,
  ) {
    super('The website did not answer.', { cause });
  }
}

/** What is asked of the website. */
export interface OriginRequest {
  readonly method: string;
  readonly path: string;
  readonly fields: RawFields;
  readonly body: IncomingMessage | null;
  /** Who waits for the answer; once they have gone, the website is not kept busy for them. */
  readonly waits: Writable;
}

/** Where the content of an answer goes. */
export interface Sink {
  /** False where it does not keep up, until it says `drain`. */
  write(chunk: Buffer): boolean;
  end(): void;
  /** What was begun can't be finished. */
  destroy(): void;
  on(event: 'drain', listener: () => void): unknown;
}

/** Says where the content of an answer goes; null lets it go unread. */
export type Into = (status: number, fields: readonly string[]) => Sink | null;

/** The website behind the gateway. */
export interface Origin {
  /**
   * Asks the website, and passes on the content as it comes, no faster than it is taken.
   * @returns the status, once all of the answer is through; 0 where nobody waited for it any more
   * @throws OriginProblem where no answer begins
   */
  ask(request: OriginRequest, into: Into): Promise<number>;
  close(): Promise<void>;
}

const CONNECTIONS = 256;
/** After this many connections that were closed, it is the website that does not answer. */
const MOST_AGAIN = 3;

/**
 * The website at an address, over connections that are kept open.
 * @param patience how long it may take to begin an answer, in milliseconds; the rest of it may take as long as it likes
 */
export function originAt(address: string, patience: number): Origin {
  const pool = new Pool(address, {
    connections: CONNECTIONS,
    headersTimeout: patience,
    // Server-sent events and long downloads may pause for as long as they like.
    bodyTimeout: 0,
    connect: { timeout: patience },
  });
  const once = ({ method, path, fields, body, waits }: OriginRequest, into: Into) =>
    new Promise<number>((resolve, reject) => {
      pool.dispatch(
        { method: method, path, headers: fields, body },
        handlerFor(waits, into, resolve, reject),
      );
    });
  return {
    ask: async (request, into) => {
      for (let again = 0; ; again++) {
        try {
          return await once(request, into);
        } catch (error) {
          if (again === MOST_AGAIN || !mayBeAskedAgain(request, error)) throw error;
        }
      }
    },
    close: () => pool.destroy(),
  };
}

/**
 * A connection that was kept open may be closed by the website in the very moment in which it is used
 * again. What only looks is then asked once more, on another one (RFC 9110, 9.2.2).
 */
function mayBeAskedAgain({ method, body, waits }: OriginRequest, error: unknown): boolean {
  const { code } = ((error as Error).cause ?? {}) as NodeJS.ErrnoException;
  const isClosed = code === 'UND_ERR_SOCKET' || code === 'ECONNRESET' || code === 'EPIPE';
  const isSafe = method === 'GET' || method === 'HEAD';
  return error instanceof OriginProblem && isClosed && isSafe && body === null && !waits.destroyed;
}

/** Takes an answer apart as it comes in: no stream stands between the two connections. */
function handlerFor(
  waits: Writable,
  into: Into,
  resolve: (status: number) => void,
  reject: (error: unknown) => void,
): Dispatcher.DispatchHandler {
  let asked: Dispatcher.DispatchController | null = null;
  let status = 0;
  let sink: Sink | null = null;
  let isGone = waits.destroyed;
  const leave = (): void => {
    if (waits.writableFinished) return;
    isGone = true;
    asked?.abort(new Error('The visitor has gone.'));
  };
  waits.once('close', leave);
  return {
    onRequestStart: (controller) => {
      asked = controller;
      if (isGone) leave();
    },
    onResponseStart: (controller, statusCode) => {
      // Early answers, such as 103, are not the one that is waited for.
      if (statusCode < 200 || isGone) return;
      status = statusCode;
      const raw = (controller.rawHeaders ?? []) as readonly (string | Buffer)[];
      sink = into(status, raw.map(String));
      sink?.on('drain', () => controller.resume());
    },
    onResponseData: (controller, chunk) => {
      if (sink?.write(chunk) === false) controller.pause();
    },
    onResponseEnd: () => {
      waits.off('close', leave);
      sink?.end();
      resolve(status);
    },
    onResponseError: (_, error) => {
      waits.off('close', leave);
      if (isGone) resolve(0);
      else if (status !== 0) {
        sink?.destroy();
        reject(error);
      } else reject(new OriginProblem(isSlow(error) ? 504 : 502, error));
    },
  };
}

const isSlow = (error: Error): boolean =>
  error instanceof errors.HeadersTimeoutError || error instanceof errors.ConnectTimeoutError;
