import { createHash } from 'node:crypto';
import { IncomingMessage, request as askHttp } from 'node:http';
import { request as askHttps } from 'node:https';
import type { Duplex } from 'node:stream';
import { answeredFields, valuesOf, type RawFields } from './origin/fields.ts';
import { OriginProblem } from './origin/origin.ts';

/**
 * A request as the gateway's server makes it: one that asks for another protocol than WebSocket is an
 * ordinary request (RFC 9110, 7.8: a server may ignore `Upgrade`).
 */
export class GatewayRequest extends IncomingMessage {
  private isOffered = false;

  /** Another protocol was offered, and is not taken. The parser drops what may stand behind such a request. */
  get hasDeclinedUpgrade(): boolean {
    return this.isOffered && !this.upgrade;
  }

  // The server of Node.js hands a connection over where this is true once the fields are read.
  get upgrade(): boolean {
    return this.isOffered && (this.method === 'CONNECT' || isHandshake(this));
  }

  set upgrade(isOffered: boolean | null) {
    // Set before the class is ready, by the constructor of the class above.
    this.isOffered = isOffered === true;
  }
}

/** Whether a request is the opening handshake of a WebSocket (RFC 6455, 4.2.1), and nothing else. */
function isHandshake({
  method,
  httpVersion,
  headers,
}: Pick<IncomingMessage, 'method' | 'httpVersion' | 'headers'>): boolean {
  const key = headers['sec-websocket-key'];
  return (
    method === 'GET' &&
    httpVersion === '1.1' &&
    headers.upgrade?.trim().toLowerCase() === 'websocket' &&
    headers['sec-websocket-version'] === '13' &&
    typeof key === 'string' &&
    /^[A-Za-z\d+/]{22}==$/.test(key) &&
    headers['content-length'] === undefined &&
    headers['transfer-encoding'] === undefined
  );
}

const GUID = '258EAFA5-E914-47DA-95CA-C5AB0DC85B11';
const acceptFor = (key: string): string =>
  createHash('sha1')
    .update(key + GUID)
    .digest('base64');

/** A handshake on its way to the website, on a connection of its own. */
export interface Handshake {
  readonly origin: string;
  readonly path: string;
  /** The fields that go on, without those that ask for the protocol. */
  readonly fields: RawFields;
  readonly key: string;
  /** How long the website may take to answer, in milliseconds. */
  readonly originTimeout: number;
}

/** What the website made of a handshake. */
export type HandshakeResult =
  | {
      readonly is: 'open';
      readonly socket: Duplex;
      readonly head: Buffer;
      readonly fields: RawFields;
    }
  /** Any other response, with its content. */
  | { readonly is: 'response'; readonly response: IncomingMessage };

/**
 * Asks the website to open a WebSocket.
 * @param onAsked is given what ends the request where nobody waits for it any more
 * @throws OriginProblem where it does not answer, or switches to something else
 */
export function openWebSocket(
  { origin, path, fields, key, originTimeout }: Handshake,
  onAsked: (end: () => void) => void,
): Promise<HandshakeResult> {
  const { protocol, hostname, port } = new URL(origin);
  return new Promise((resolve, reject) => {
    const ask = protocol === 'https:' ? askHttps : askHttp;
    const upgrade = ask({
      // Its own connection: what the website makes of the handshake must not reach anyone else.
      agent: false,
      host: hostname.replace(/^\[|\]$/g, ''),
      port: port === '' ? undefined : port,
      path,
      method: 'GET',
      headers: [...fields, 'Connection', 'Upgrade', 'Upgrade', 'websocket'],
      setHost: false,
      ...(protocol === 'https:' ? { servername: hostname } : {}),
    });
    const timer = setTimeout(
      () => fail(new OriginProblem(504, new Error('The handshake was not answered.'))),
      originTimeout,
    );
    const fail = (problem: OriginProblem): void => {
      clearTimeout(timer);
      upgrade.destroy();
      reject(problem);
    };
    onAsked(() => fail(new OriginProblem(502, new Error('The visitor has gone.'))));
    upgrade.on('error', (error) => fail(new OriginProblem(502, error)));
    upgrade.on('response', (response) => {
      clearTimeout(timer);
      resolve({ is: 'response', response });
    });
    upgrade.on('upgrade', (answer, socket, head) => {
      clearTimeout(timer);
      const isRight =
        answer.headers.upgrade?.toLowerCase() === 'websocket' &&
        answer.headers['sec-websocket-accept'] === acceptFor(key);
      if (isRight)
        resolve({ is: 'open', socket, head, fields: answeredFields(answer.rawHeaders, {}) });
      else {
        socket.destroy();
        fail(new OriginProblem(502, new Error('The website switched to another protocol.')));
      }
    });
    upgrade.end();
  });
}

/** The first bytes of an open WebSocket, as the visitor gets them. */
export function switchingProtocols(fields: RawFields): Buffer {
  const lines = Array.from(
    { length: fields.length / 2 },
    (_, i) => `${fields[2 * i]}: ${fields[2 * i + 1]}\r\n`,
  );
  return Buffer.from(
    `HTTP/1.1 101 Switching Protocols\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n${lines.join('')}\r\n`,
    'latin1',
  );
}

/** The key of a handshake; it is there in every request that is one. */
export const keyOf = (raw: readonly string[]): string =>
  valuesOf(raw, 'sec-websocket-key')[0] ?? '';

/** Joins two connections until either ends. */
export function join(one: Duplex, other: Duplex): void {
  const end = (): void => {
    one.destroy();
    other.destroy();
  };
  for (const socket of [one, other]) {
    socket.on('error', end);
    socket.on('close', end);
  }
  one.pipe(other).pipe(one);
}
