import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  askedFor,
  isView,
  notFoundAt,
  type Content,
  type Decision,
  type PreparedSite,
  type Visitor,
} from '@kleidon/core';
import { VISITOR_FIELD, type VisitorProof } from '../sign-in/visitor-proof.ts';
import type { Asked } from './asked.ts';
import { answeredFields, forwardedBy, forwardedFields, valueOf, type RawFields } from './fields.ts';
import { passMarked } from './marks/marked-page.ts';
import { isHtml, pageSees } from './marks/page-sees.ts';
import { OriginProblem, type Origin, type Sink } from './origin.ts';
import { ownPage, pageAsHtml } from './page.ts';
import type { Ended } from './watch.ts';

/** What answers need of the gateway that they are given by. */
export interface AnswerOptions {
  readonly website: Origin;
  /** The origin at the address of another server. */
  readonly originOf: (address: string) => Origin;
  readonly home: () => URL;
  readonly proof: VisitorProof;
  readonly now: () => number;
}

/** One request on its way. */
export interface Under {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly site: PreparedSite;
  readonly asked: Asked;
  readonly visitor: Visitor;
}

export interface Answers {
  /** Gives the answer that was decided; tells how it ended. */
  answer(under: Under, decision: Decision): Promise<Ended>;
  /** The fields with which the website is asked. */
  fieldsFor(under: Pick<Under, 'request' | 'visitor'>, host: string): Promise<RawFields>;
}

type Fields = Readonly<Record<string, string>>;

/** The answers of a gateway: the website's own where the rules let a request through, those of the rules otherwise. */
export function answersOf({ website, originOf, home, proof, now }: AnswerOptions): Answers {
  const fieldsFor = async (
    { request, visitor }: Pick<Under, 'request' | 'visitor'>,
    host: string,
  ): Promise<RawFields> => {
    const { host: reached, protocol } = home();
    const by = forwardedBy(request.socket.remoteAddress, reached, protocol.slice(0, -1));
    const token = visitor.guest ? null : await proof.of(visitor, `https://${host}`, now());
    const who = token === null ? [] : [VISITOR_FIELD, token];
    return [...forwardedFields(request.rawHeaders), 'Host', host, 'Forwarded', by, ...who];
  };

  /** Lets a request through to the website, and its answer back. */
  const pass = async (under: Under, decision: Decision): Promise<Ended> => {
    const { request, response, site, asked } = under;
    const { method } = asked;
    const target = decision.served ?? askedFor(site, asked.address)!;
    const url = target.startsWith('/') ? null : new URL(target);
    const origin = url ? originOf(url.origin) : website;
    const path = url ? url.pathname + url.search : target;
    const all = await fieldsFor(under, url?.host ?? site.site.host);
    const body = bodyOf(request);
    const came = { isPiece: false };
    const isMissing = (status: number): boolean => status === 404 && isView(method);
    const askFor = (fields: RawFields): Promise<number> =>
      origin.ask({ method, path, fields, body, waits: response }, (found, raw) => {
        // A piece of a page may begin in the middle of a part that is not for the visitor.
        came.isPiece = found === 206 && isHtml(valueOf(raw, 'content-type'));
        if (came.isPiece || isMissing(found)) return null;
        return giveBack(under, found, raw, decision.headers);
      });
    let status = await askFor(withKnownCodings(all));
    if (came.isPiece) status = await askFor(withKnownCodings(withoutConditions(all)));
    if (!isMissing(status)) return 'reach';
    const missing = notFoundAt(site, asked.address, under.visitor, now());
    await refuse(under, missing.status, missing.content, decision.headers);
    return 'missing';
  };

  /** Answers with one of the website's own pages, with words, or with a page of ours. */
  const refuse = async (
    under: Under,
    status: number,
    content: Content | null,
    headers: Fields,
  ): Promise<void> => {
    const { request, response, site } = under;
    if (content?.is === 'page' && isView(request.method!)) {
      const path = askedFor(site, content.address)!;
      const fields = withoutConditions(await fieldsFor(under, site.site.host));
      const shown = await website
        .ask(
          {
            method: 'GET',
            path,
            fields: withKnownCodings(fields),
            body: null,
            waits: response,
          },
          (found, raw) => (found === 200 ? giveBack(under, status, raw, headers) : null),
        )
        .catch(() => null);
      if (shown === 200 || response.headersSent || response.destroyed) return;
    }
    say(request, response, status, content, headers);
  };

  const giveBack = (
    under: Under,
    status: number,
    raw: readonly string[],
    headers: Fields,
  ): Sink | null => {
    const { request, response, site } = under;
    const untouched = answeredFields(raw, headers);
    const isPage = isHtml(valueOf(raw, 'content-type'));
    const changed = isPage ? ofOneVisitor(untouched) : untouched;
    if (request.method === 'HEAD' || !isPage) {
      response.writeHead(status, changed);
      if (request.method !== 'HEAD') {
        // With the first of the content where that comes at once, and by themselves where it does not.
        setImmediate(() => response.flushHeaders());
        return response;
      }
      response.end();
      return null;
    }
    const sees = () => pageSees(site, under.visitor, under.asked.address, home().origin, now());
    const coding = valueOf(raw, 'content-encoding') ?? '';
    const sink = passMarked({ response, status, coding, untouched, changed, sees });
    if (!sink) throw new OriginProblem(502, new Error(`HTML came in the coding "${coding}".`));
    return sink;
  };

  const sendOn = (
    { request, response, site }: Under,
    decision: Decision,
    location: string,
  ): void => {
    const siteHome = `${site.site.protocol}//${site.site.host}`;
    // The site's own address is where the gateway is reached, which is elsewhere when it is tried out.
    const target =
      location === siteHome || location.startsWith(`${siteHome}/`)
        ? home().origin + location.slice(siteHome.length)
        : location;
    const headers =
      decision.content?.is === 'wait'
        ? decision.headers
        : { ...decision.headers, Location: target };
    say(request, response, decision.status, decision.content, headers);
  };

  return {
    fieldsFor,
    answer: async (under, decision) => {
      if (decision.outcome === 'reach') return pass(under, decision);
      if (decision.location !== null) sendOn(under, decision, decision.location);
      else await refuse(under, decision.status, decision.content, decision.headers);
      return decision.outcome;
    },
  };
}

/** The content of a request; that of GET and HEAD means nothing (RFC 9110, 9.3.1) and is not passed on. */
function bodyOf(request: IncomingMessage): IncomingMessage | null {
  const { method, headers } = request;
  const hasBody =
    headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
  return hasBody && !isView(method!) ? request : null;
}

const without = (fields: readonly string[], names: RegExp): RawFields =>
  fields.filter((_, i) => !names.test(fields[i - (i % 2)]!));

/** A page that stands for another one is asked for as a whole. */
const withoutConditions = (fields: RawFields): RawFields =>
  without(fields, /^(?:if-.*|range|content-.*)$/i);

/** Pages may have marks: they are asked for in codings that can be taken off again. */
function withKnownCodings(fields: RawFields): RawFields {
  return fields.map((value, i) =>
    i % 2 === 1 && fields[i - 1]!.toLowerCase() === 'accept-encoding'
      ? value
          .split(',')
          .filter((one) => /^\s*(?:gzip|br|identity)\s*(?:;|$)/i.test(one))
          .join(',') || 'identity'
      : value,
  );
}

/** The fields of a page that is not the same for everyone: nobody else may be given it, nor a piece of it. */
const ofOneVisitor = (fields: RawFields): RawFields => [
  ...without(
    fields,
    /^(?:content-length|content-encoding|etag|last-modified|accept-ranges|(?:content-|repr-)?digest|content-md5|cache-control|expires|pragma)$/i,
  ),
  'Cache-Control',
  'private, no-store',
];

const MISREAD = new Set([400, 405, 421]);

/** Answers with a page of our own. */
export function say(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  content: Content | null,
  headers: Fields,
): void {
  const isEmpty = headers['Location'] !== undefined;
  const body = isEmpty ? '' : pageAsHtml(ownPage(status, content));
  // What is left of an upload that nobody reads would be taken for the next request.
  const isUnread = !request.complete && bodyOf(request) !== null;
  response.writeHead(status, {
    ...headers,
    'Content-Length': Buffer.byteLength(body),
    ...(isEmpty ? {} : { 'Content-Type': 'text/html; charset=utf-8' }),
    // Whoever sends what can be read two ways is not listened to any further.
    ...(isUnread || MISREAD.has(status) ? { Connection: 'close' } : {}),
  });
  response.end(request.method === 'HEAD' ? '' : body);
}
