import { createHash } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex, Writable } from 'node:stream';
import { checkServerIdentity, type PeerCertificate } from 'node:tls';
import { Client, errors, Pool, type Dispatcher } from 'undici';
import type { RawFields } from './fields.ts';
import { TooBusy, type Turn, type Turns } from './limits.ts';
import type { Pace, Reader } from './pace.ts';

/** The website did not answer as it should: 502 where it can't be reached or understood, 504 where it takes too long. */
export class OriginProblem extends Error {
  constructor(
    readonly status: 502 | 503 | 504,
    cause: unknown,
  ) {
    super('The website did not answer.', { cause });
  }
}

/** A client brought its upload too slowly (408). */
export class SlowUpload extends Error {
  constructor() {
    super('The upload came too slowly.');
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
  /** The IP address of the client that it is for, in whose share it counts. */
  readonly client: string;
  /** The opening handshake of a WebSocket (RFC 6455); null for every other request. */
  readonly handshake?: Handshake | null;
}

/** An opening handshake on its way to the website. */
export interface Handshake {
  readonly key: string;
  /**
   * Takes the connection once the website has opened the WebSocket.
   * @param fields those of the response, names and values by turns
   */
  open(socket: Duplex, fields: readonly string[]): void;
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

/** An answer of the website that begins. */
export interface Arriving {
  readonly status: number;
  /** The reason phrase. */
  readonly reason: string;
  /** Names and values as the website sent them, byte for byte: one character for each byte. */
  readonly fields: readonly string[];
  /** The answer goes on as an event stream; whether there is room for it. */
  becomeStream(): boolean;
  /** Ends the request: nothing can be made of the answer. */
  fail(error: Error): void;
}

/** Says where the content of an answer goes; null lets it go unread. What it throws ends the request. */
export type Into = (arriving: Arriving) => Sink | null;

/** The website behind the gateway. */
export interface Origin {
  /**
   * Asks the website, and passes on the content as it comes, no faster than it is taken.
   * @returns the status, once all of the answer is through; 0 where nobody waited for it any more
   * @throws OriginProblem where no answer begins, SlowUpload, TooBusy
   */
  ask(request: OriginRequest, into: Into): Promise<number>;
  close(): Promise<void>;
}

export interface OriginOptions {
  /** How long it may take to begin an answer, in milliseconds; the rest of it may take as long as it likes. */
  readonly originTimeout: number;
  readonly turns: Turns;
  readonly pace: Pace;
}

/** After this many connections that were closed, it is the website that does not answer. */
const MOST_AGAIN = 3;

/** The website at an address, over connections that are kept open; as many as there are turns. */
export function originAt(address: string, { originTimeout, turns, pace }: OriginOptions): Origin {
  const { hostname } = new URL(address);
  const connection = {
    headersTimeout: originTimeout,
    // Server-sent events and long downloads may pause for as long as they like.
    bodyTimeout: 0,
    connect: {
      timeout: originTimeout,
      // The certificate is for the address of the website, or for the host of the site that it is asked for.
      checkServerIdentity: (host: string, certificate: PeerCertificate) =>
        checkServerIdentity(hostname, certificate) && checkServerIdentity(host, certificate),
    },
  };
  const pool = new Pool(address, { ...connection, connections: null });
  const once = (request: OriginRequest, turn: Turn, into: Into): Promise<number> =>
    new Promise<number>((resolve, reject) => {
      const { method, path, fields, body, handshake = null } = request;
      const handler = handlerFor(request, { turn, pace, into, resolve, reject });
      if (body !== null) pace.watchUpload(body, () => handler.stop(new SlowUpload()));
      const sent = { method, path, headers: fields, body };
      if (handshake === null) {
        pool.dispatch(sent, handler);
        return;
      }
      // What the website makes of a handshake must not reach anyone else.
      const own = new Client(address, connection);
      own.dispatch({ ...sent, upgrade: 'websocket' }, handler);
      void own.close();
    });
  return {
    ask: async (request, into) => {
      const turn = turns.tryTake(request.client) ?? (await turnFor(turns, request));
      if (turn === null) return 0;
      let hasEnded = true;
      try {
        for (let again = 0; ; again++) {
          try {
            const status = await once(request, turn, into);
            hasEnded = status !== SWITCHING_PROTOCOLS;
            return status;
          } catch (error) {
            if (again === MOST_AGAIN || !mayBeAskedAgain(request, error)) throw error;
          }
        }
      } finally {
        // A WebSocket keeps its turn until it closes.
        if (hasEnded) turn.end();
      }
    },
    close: () => pool.destroy(),
  };
}

/** The turn of a request; null where whoever waits has gone meanwhile. */
async function turnFor(turns: Turns, { client, waits }: OriginRequest): Promise<Turn | null> {
  const leaving: (() => void)[] = [];
  try {
    const turn = await turns.take(client, (leave) => {
      leaving.push(leave);
      waits.once('close', leave);
    });
    if (!waits.destroyed) return turn;
    turn.end();
    return null;
  } catch (error) {
    if (waits.destroyed) return null;
    throw error;
  } finally {
    for (const leave of leaving) waits.off('close', leave);
  }
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

interface Handling {
  readonly turn: Turn;
  readonly pace: Pace;
  readonly into: Into;
  resolve(status: number): void;
  reject(error: unknown): void;
}

const SWITCHING_PROTOCOLS = 101;

/** Takes an answer apart as it comes in: no stream stands between the two connections. */
function handlerFor(
  { waits, handshake }: OriginRequest,
  { turn, pace, into, resolve, reject }: Handling,
): Dispatcher.DispatchHandler & { stop(error: Error): void } {
  let underWay: Dispatcher.DispatchController | null = null;
  let status = 0;
  let sink: Sink | null = null;
  let reader: Reader | null = null;
  let isGone = waits.destroyed;
  let failure: Error | null = null;
  const leave = (): void => {
    if (waits.writableFinished) return;
    isGone = true;
    underWay?.abort(new Error('The visitor has gone.'));
  };
  const stop = (error: Error): void => {
    failure ??= error;
    underWay?.abort(error);
  };
  waits.once('close', leave);
  const end = (): void => {
    waits.off('close', leave);
    reader?.end();
  };
  return {
    stop,
    onRequestStart: (controller) => {
      underWay = controller;
      if (isGone) leave();
      else if (failure) controller.abort(failure);
    },
    onRequestUpgrade: (controller, statusCode, headers, socket) => {
      end();
      const isOpen =
        statusCode === SWITCHING_PROTOCOLS &&
        String(headers['upgrade']).toLowerCase() === 'websocket' &&
        headers['sec-websocket-accept'] === acceptFor(handshake?.key ?? '');
      if (isOpen && !isGone && turn.becomeStream()) {
        socket.once('close', () => turn.end());
        handshake!.open(socket, rawFields(controller));
        resolve(SWITCHING_PROTOCOLS);
        return;
      }
      socket.destroy();
      if (isGone) resolve(0);
      else if (isOpen) reject(new TooBusy());
      else reject(new OriginProblem(502, new Error('The website switched to another protocol.')));
    },
    onResponseStart: (controller, statusCode, _headers, reason) => {
      // Early answers, such as 103, are not the one that is waited for.
      if (statusCode < 200 || isGone) return;
      status = statusCode;
      const fields = rawFields(controller);
      try {
        sink = into({
          status,
          reason: reason ?? '',
          fields,
          becomeStream: () => turn.becomeStream(),
          fail: stop,
        });
      } catch (error) {
        stop(error as Error);
        return;
      }
      sink?.on('drain', () => {
        reader?.isReady();
        controller.resume();
      });
    },
    onResponseData: (controller, chunk) => {
      if (failure || sink?.write(chunk) !== false) return;
      controller.pause();
      if (reader) reader.isFull();
      else
        reader = pace.watchReader(() => {
          sink?.destroy();
        });
    },
    onResponseEnd: () => {
      end();
      if (!failure) sink?.end();
      // The end of a page may show that it can't be read.
      if (failure) reject(failure);
      else resolve(status);
    },
    onResponseError: (_, error) => {
      end();
      if (failure) reject(failure);
      else if (isGone) resolve(0);
      else if (status !== 0) {
        sink?.destroy();
        reject(error);
      } else reject(new OriginProblem(isSlow(error) ? 504 : 502, error));
    },
  };
}

const GUID = '258EAFA5-E914-47DA-95CA-C5AB0DC85B11';

/** The answer to a key of a handshake (RFC 6455, 4.2.2). */
const acceptFor = (key: string): string =>
  createHash('sha1')
    .update(key + GUID)
    .digest('base64');

const rawFields = ({ rawHeaders }: Dispatcher.DispatchController): string[] =>
  ((rawHeaders ?? []) as readonly (string | Buffer)[]).map(textOf);

const textOf = (one: string | Buffer): string =>
  typeof one === 'string' ? one : one.toString('latin1');

const isSlow = (error: Error): boolean =>
  error instanceof errors.HeadersTimeoutError || error instanceof errors.ConnectTimeoutError;
