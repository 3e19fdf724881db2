import { request as ask, type IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import type { RawFields } from './fields.ts';

interface Upgrading {
  readonly request: IncomingMessage;
  readonly socket: Duplex;
  /** What came behind the request already. */
  readonly head: Buffer;
}

/** Passes a connection that changes its protocol, as a WebSocket does (RFC 9110, 7.8), on to the website. */
export function passUpgrade(
  origin: string,
  path: string,
  fields: RawFields,
  { request, socket, head }: Upgrading,
): void {
  const { hostname, port } = new URL(origin);
  const asked = ask({
    host: hostname,
    port,
    path,
    method: request.method,
    headers: [...fields, 'Connection', 'Upgrade', 'Upgrade', request.headers.upgrade ?? ''],
    setHost: false,
  });
  const end = (): void => {
    socket.destroy();
    asked.destroy();
  };
  socket.on('close', () => asked.destroy());
  asked.on('error', end);
  asked.on('response', (answer) => {
    socket.end(`HTTP/1.1 ${answer.statusCode ?? 502} Refused\r\nConnection: close\r\n\r\n`);
    answer.resume();
  });
  asked.on('upgrade', (answer, there, more) => {
    there.on('error', end);
    there.on('close', end);
    socket.on('close', () => there.destroy());
    const lines = Array.from(
      { length: answer.rawHeaders.length / 2 },
      (_, i) => `${answer.rawHeaders[2 * i]}: ${answer.rawHeaders[2 * i + 1]}\r\n`,
    );
    socket.write(`HTTP/1.1 101 Switching Protocols\r\n${lines.join('')}\r\n`);
    if (more.length > 0) socket.write(more);
    if (head.length > 0) there.write(head);
    there.pipe(socket).pipe(there);
  });
  asked.end();
}
