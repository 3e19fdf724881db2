import type { IncomingMessage, ServerResponse } from 'node:http';
import { decisions, wording } from '@kleidon/core';
import type { MappedClaims } from '../sign-in/claims.ts';
import { pageAsHtml, type OwnPage } from './page.ts';
import { OWN_PAGE_FIELDS } from './send-page.ts';

/** A form with one field; whoever sends more is not listened to. */
const MOST_BODY = 1000;

/** What came back from a test sign-in, and what it would make of the visitor. */
export function testPage(
  { visitor, uses }: MappedClaims,
  { site }: decisions.PreparedSite,
): OwnPage {
  const unknown = [
    ...(visitor?.roles ?? []).filter((role) => !Object.hasOwn(site.roles, role)),
    ...(visitor?.groups ?? []).filter((group) => !Object.hasOwn(site.groups, group)),
    ...(visitor?.bought ?? [])
      .map(({ product }) => product)
      .filter((product) => !Object.hasOwn(site.products, product)),
  ];
  const who = visitor
    ? `You would be ${visitor.title} (${wording.summarize(visitor, site.timeZone)}).`
    : 'Nobody could sign in like this: the claim that names the visitor is missing.';
  const unused = unknown.length === 0 ? '' : ` The site file does not know ${unknown.join(', ')}.`;
  return {
    title: 'A test: nobody was signed in',
    words: `${who}${unused}`,
    table: [
      ['Claim', 'What came back', 'What it became'],
      ...uses.map(({ claim, value, became }) => [
        claim,
        typeof value === 'string' ? value : JSON.stringify(value),
        became ?? 'nothing',
      ]),
    ],
    links: [{ address: '/', title: 'To the site' }],
  };
}

/** The text of a short form; empty where it is too long. */
export async function bodyOf(request: IncomingMessage): Promise<string> {
  let body = '';
  for await (const chunk of request) {
    body += String(chunk);
    if (body.length > MOST_BODY) return '';
  }
  return body;
}

const FIELDS = { 'Cache-Control': 'no-store', 'Referrer-Policy': 'no-referrer' };
const PAGE_FIELDS = { ...OWN_PAGE_FIELDS, ...FIELDS, 'X-Robots-Tag': 'noindex' };

/** Sends a browser on, and gives it cookies. */
export function sendOn(
  response: ServerResponse,
  location: string,
  setCookies: readonly string[],
): void {
  response.writeHead(303, {
    ...FIELDS,
    Location: decisions.encodeLocation(location),
    'Content-Length': 0,
    'Set-Cookie': [...setCookies],
  });
  response.end();
}

/** Answers with a page about signing in. */
export function page(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  content: OwnPage,
  setCookies: readonly string[] = [],
): void {
  const body = pageAsHtml(content);
  response.writeHead(status, {
    ...PAGE_FIELDS,
    'Content-Length': Buffer.byteLength(body),
    ...(setCookies.length === 0 ? {} : { 'Set-Cookie': [...setCookies] }),
  });
  response.end(request.method === 'HEAD' ? '' : body);
}
