import type { Request } from 'express';
import { Problem } from './problem.ts';

/** The version that If-Match names (RFC 9110, 13.1.1). */
export function versionFrom(request: Request): number {
  const header = request.get('If-Match');
  if (header === undefined) throw new Problem('version-needed', 'The header If-Match is missing.');
  const match = /^"(\d+)"$/.exec(header.trim());
  if (!match)
    throw new Problem(
      'wrong-request',
      `If-Match holds ${header}, which is not an ETag of a draft, such as "3".`,
    );
  return Number(match[1]);
}

/** What a body is called in messages, by its media type. */
const BODIES: Readonly<Record<string, string>> = {
  'application/json-patch+json': 'a patch',
  'text/csv': 'a CSV file',
};

/**
 * The body of a request: text of a site file or a CSV file, or JSON.
 * @param type the media type that the call takes; nothing but JSON is taken for JSON, so that no form of another
 *   site can send it
 * @throws Problem `wrong-media-type`; `wrong-request` for an empty site file and for JSON made to be misread
 */
export function readBody(request: Request, type: string): unknown {
  if (type === 'application/yaml') return siteFileFrom(request);
  const hasType = request.is(type) === type;
  // A signed body is parsed once its signature was verified.
  if (hasType && Buffer.isBuffer(request.body)) return request.body;
  if (hasType && type.endsWith('json')) return plainJson(request.body as unknown);
  if (hasType && typeof request.body === 'string') return request.body;
  const sent = request.get('Content-Type') ?? 'nothing';
  const wanted = BODIES[type];
  throw new Problem(
    'wrong-media-type',
    `The body came as ${sent}${wanted === undefined ? '' : `; ${wanted} is ${type}`}.`,
  );
}

/** A site file that came as the body. */
function siteFileFrom(request: Request): string {
  if (typeof request.body === 'string') return request.body;
  const sent = request.get('Content-Type');
  const isEmpty =
    request.get('Content-Length') === '0' ||
    (sent === undefined && !request.get('Transfer-Encoding'));
  if (isEmpty) throw new Problem('wrong-request', 'The body is empty; a site file is wanted.');
  throw new Problem('wrong-media-type', `The body came as ${sent ?? 'nothing'}.`);
}

/** Deeper than anything that the API takes. */
const DEEPEST = 100;

/** JSON that is not made to be misread: `__proto__` is a name to some, and changes what is read to others. */
export function plainJson(body: unknown): unknown {
  const waiting: [value: unknown, pointer: string, depth: number][] = [[body, '', 0]];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const [value, pointer, depth] = next;
    if (typeof value !== 'object' || value === null) continue;
    const wrong = Object.hasOwn(value, '__proto__')
      ? '"__proto__" is not a name that can be used.'
      : depth > DEEPEST
        ? `The body is nested deeper than ${DEEPEST}.`
        : null;
    if (wrong !== null)
      throw new Problem('wrong-request', wrong, { errors: [{ pointer, message: wrong }] });
    for (const [key, inner] of Object.entries(value))
      waiting.push([
        inner,
        `${pointer}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`,
        depth + 1,
      ]);
  }
  return body;
}
