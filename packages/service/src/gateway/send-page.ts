import type { IncomingMessage, ServerResponse } from 'node:http';
import { decisions } from '@kleidon/core';
import Negotiator from 'negotiator';
import { ownPage, pageAsHtml, problemOf, type OwnPage } from './page.ts';

const HTML = 'text/html';
const PROBLEM = 'application/problem+json';

/** Fields of every page of the gateway's own: nothing in it may run, be framed, or be taken for something else. */
export const OWN_PAGE_FIELDS = {
  'Content-Type': `${HTML}; charset=utf-8`,
  'Content-Security-Policy':
    "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; frame-ancestors 'none'",
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  'Referrer-Policy': 'no-referrer',
} as const;

/** Whoever sends what is ambiguous is not listened to any further. */
const MISREAD: ReadonlySet<number> = new Set([400, 405, 408, 421]);
/** When to ask again where there is too much to do, in seconds. */
const BUSY = { 'Retry-After': '5' } as const;

/** Whether a client wants a problem document (RFC 9457) rather than a page: what calls an API asks for JSON. */
export const wantsProblem = (request: IncomingMessage): boolean =>
  request.headers.accept !== undefined &&
  ![HTML, undefined].includes(
    new Negotiator(request).mediaType([HTML, PROBLEM, 'application/json']),
  );

/** Answers with a page of the gateway's own, or a problem document in its place, or with a redirect. */
export function sendPage(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  content: decisions.Content | null,
  headers: Readonly<Record<string, string>>,
): void {
  const isEmpty = headers['Location'] !== undefined;
  const isProblem = !isEmpty && status >= 400 && wantsProblem(request);
  const body = isEmpty ? '' : bodyWith(isProblem, status, ownPage(status, content));
  // What is left of an upload that nobody reads would be taken for the next request.
  const isUnread = !request.complete && bodyOf(request) !== null;
  response.writeHead(status, {
    ...headers,
    ...(status === 503 ? BUSY : {}),
    'Content-Length': Buffer.byteLength(body),
    ...(isEmpty ? {} : OWN_PAGE_FIELDS),
    ...(isProblem ? { 'Content-Type': PROBLEM } : {}),
    ...(isEmpty || status < 400 ? {} : { Vary: withAccept(headers['Vary']) }),
    ...(isUnread || MISREAD.has(status) ? { Connection: 'close' } : {}),
  });
  response.end(request.method === 'HEAD' ? '' : body);
}

const bodyWith = (isProblem: boolean, status: number, page: OwnPage): string =>
  isProblem ? problemOf(status, page) : pageAsHtml(page);

/** `Vary` of what a client is told in one of two media types. */
export const withAccept = (vary: string | undefined): string =>
  vary === undefined ? 'Accept' : `${vary}, Accept`;

/** The content of a request; that of GET and HEAD means nothing (RFC 9110, 9.3.1) and is not passed on. */
export function bodyOf(request: IncomingMessage): IncomingMessage | null {
  const { method, headers } = request;
  const hasBody =
    headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
  return hasBody && !decisions.isView(method!) ? request : null;
}
