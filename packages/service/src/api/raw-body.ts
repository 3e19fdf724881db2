import type { IncomingMessage } from 'node:http';
import { Problem } from './problem.ts';

/** The very bytes of bodies that are signed, letter by letter. */
const bodies = new WeakMap<IncomingMessage, Buffer>();

/** Notes the bytes of a body that is signed, before it is read as JSON. */
export function noteRawBody(request: IncomingMessage, _response: unknown, raw: Buffer): void {
  bodies.set(request, raw);
}

/** The bytes of a body. Throws `wrong-media-type` where none was read as JSON. */
export function rawBodyOf(request: IncomingMessage): Buffer {
  const raw = bodies.get(request);
  if (!raw) throw new Problem('wrong-media-type', 'An event is sent as application/json.');
  return raw;
}
