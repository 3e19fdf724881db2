import { createHash } from 'node:crypto';

/** The fields of an opening handshake, with the key that RFC 6455 has as its example. */
export const HANDSHAKE = {
  Connection: 'Upgrade',
  Upgrade: 'websocket',
  'Sec-WebSocket-Key': 'dGhlIHNhbXBsZSBub25jZQ==',
  'Sec-WebSocket-Version': '13',
} as const;

export const printed = (fields: Readonly<Record<string, string>>): string =>
  Object.entries(fields)
    .map(([name, value]) => `${name}: ${value}\r\n`)
    .join('');

/** The answer of a server that takes part (RFC 6455, 4.2.2). */
export function switching(key: string, more: Readonly<Record<string, string>> = {}): string {
  const accept = createHash('sha1')
    .update(`${key}258EAFA5-E914-47DA-95CA-C5AB0DC85B11`)
    .digest('base64');
  const fields = { Connection: 'Upgrade', Upgrade: 'websocket', 'Sec-WebSocket-Accept': accept };
  return `HTTP/1.1 101 Switching Protocols\r\n${printed({ ...fields, ...more })}\r\n`;
}
