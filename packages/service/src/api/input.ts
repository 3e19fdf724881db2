import type { Request } from 'express';
import type { SentBody } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';

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

const SITE_FILES = ['application/yaml', 'application/x-yaml', 'text/yaml'];

/** The media types that are read at all. */
export const READ_TYPES = [
  ...SITE_FILES,
  'text/csv',
  'application/json',
  'application/json-patch+json',
];

/**
 * The body of a request as it came.
 * @param type the media type that the call takes; nothing but JSON is taken for JSON, so that no form of another
 *   site can send it
 * @throws Problem `wrong-media-type`; `wrong-request` for an empty site file
 */
export function bodyOf(request: Request, type: string): SentBody {
  const isSiteFile = type === 'application/yaml';
  const hasType = Boolean(request.is(isSiteFile ? SITE_FILES : [type]));
  const sent = request.get('Content-Type');
  const charset = /;\s*charset\s*=\s*"?([\w.:-]+)/i.exec(sent ?? '')?.[1] ?? null;
  if (hasType && Buffer.isBuffer(request.body)) return { bytes: request.body, charset };
  const isEmpty =
    request.get('Content-Length') === '0' ||
    (sent === undefined && !request.get('Transfer-Encoding'));
  if (isSiteFile && isEmpty)
    throw new Problem('wrong-request', 'The body is empty; a site file is wanted.');
  // A body of no bytes is not read.
  if (hasType) return { bytes: new Uint8Array(), charset };
  const wanted = BODIES[type];
  throw new Problem(
    'wrong-media-type',
    `The body came as ${sent ?? 'nothing'}${wanted === undefined ? '' : `; ${wanted} is ${type}`}.`,
  );
}
