import { IncomingMessage } from 'node:http';
import { Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import { valuesOf, type RawFields } from './origin/fields.ts';
import type { Pace, Reader } from './origin/pace.ts';

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

/** How long the other side may take to end once one side has ended, in milliseconds. */
const LINGER = 5000;
/** After so long without a byte, the system asks whether the other side is still there, in milliseconds. */
const KEEP_ALIVE = 15_000;
/**
 * After this silence, the visitor gets a ping, or counts as gone, in milliseconds. TCP keep-alive is not enough: it stops
 * while sent data is unacknowledged, and retransmission takes 15 minutes to fail.
 */
const PING_AFTER = 30_000;
const GONE_AFTER = 90_000;
/** A ping without content (RFC 6455, 5.5.2). */
const PING = Buffer.from([0x89, 0]);

/**
 * Joins the connections of a visitor and the website, and ends both soon after either ends, or once the visitor has
 * vanished.
 * @param pace ends a connection whose reader takes too little
 */
export function join(visitor: Duplex, website: Duplex, pace: Pace): void {
  let timer: NodeJS.Timeout | undefined;
  const end = (): void => {
    clearTimeout(timer);
    clearInterval(watching);
    visitor.destroy();
    website.destroy();
  };
  const pass = (from: Duplex, to: Duplex): void => {
    let reader: Reader | null = null;
    from.on('data', (chunk: Buffer) => {
      if (to.write(chunk)) return;
      from.pause();
      if (reader) reader.isFull();
      else reader = pace.watchReader(end);
    });
    to.on('drain', () => {
      reader?.isReady();
      from.resume();
    });
    from.once('end', () => {
      to.end();
      timer ??= setTimeout(end, LINGER);
    });
    from.on('error', end);
    from.once('close', () => {
      reader?.end();
      end();
    });
    if (from instanceof Socket) from.setKeepAlive(true, KEEP_ALIVE);
  };
  pass(visitor, website);
  pass(website, visitor);

  const frames = new FrameCounter();
  website.on('data', (chunk: Buffer) => frames.add(chunk));
  let heard = performance.now();
  let pinged: number | null = null;
  visitor.on('data', () => {
    heard = performance.now();
    pinged = null;
  });
  const watching = setInterval(() => {
    const now = performance.now();
    if (pinged !== null) {
      if (now - pinged >= GONE_AFTER - PING_AFTER) end();
    } else if (
      now - heard >= PING_AFTER &&
      frames.isBetween &&
      visitor.writable &&
      !visitor.writableNeedDrain
    ) {
      pinged = now;
      visitor.write(PING);
    }
  }, KEEP_ALIVE);
  watching.unref();
}

/** Follows the frames of a server (RFC 6455, 5.2). A frame may only be inserted between two frames. */
class FrameCounter {
  #header: number[] = [];
  #left = 0;

  /** Whether the last frame is complete. */
  get isBetween(): boolean {
    return this.#left === 0 && this.#header.length === 0;
  }

  add(chunk: Buffer): void {
    for (let i = 0; i < chunk.length;) {
      if (this.#left > 0) {
        const passed = Math.min(this.#left, chunk.length - i);
        this.#left -= passed;
        i += passed;
        continue;
      }
      const header = this.#header;
      header.push(chunk[i++]!);
      const short = header[1]! & 0x7f;
      const lengthBytes = short === 126 ? 2 : short === 127 ? 8 : 0;
      const maskBytes = header[1]! & 0x80 ? 4 : 0;
      if (header.length < 2 || header.length < 2 + lengthBytes + maskBytes) continue;
      const long = header.slice(2, 2 + lengthBytes).reduce((sum, byte) => sum * 256 + byte, 0);
      this.#left = lengthBytes === 0 ? short : long;
      this.#header = [];
    }
  }
}
