import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { Duplex, Writable } from 'node:stream';
import type { Logger } from 'pino';
import {
  askedFor,
  decide,
  notFoundAt,
  type Content,
  type Decision,
  type PreparedSite,
  type Visitor,
} from '@kleidon/core';
import { readAsked, type Asked } from './asked.ts';
import { answeredFields, forwardedBy, forwardedFields, type RawFields } from './fields.ts';
import { originAt, OriginProblem, type Origin } from './origin.ts';
import { ownPage, pageAsHtml } from './page.ts';
import { VISITOR_FIELD, type VisitorProof } from '../sign-in/visitor-proof.ts';
import { passUpgrade } from './upgrade.ts';

export interface GatewayOptions {
  /** The live release; asked for each request, so that a new one takes effect between two of them. */
  readonly live: () => PreparedSite | null;
  /** Protocol, host and port of the website. */
  readonly origin: string;
  /** Protocol and host at which visitors reach the gateway. */
  readonly reachedAt: () => string;
  /** How long the website may take to begin an answer, in milliseconds. */
  readonly patience: number;
  readonly visitorOf: (request: IncomingMessage, site: PreparedSite) => Visitor | Promise<Visitor>;
  /** Says to the website who a visitor is. */
  readonly proof: VisitorProof;
  readonly now: () => number;
  readonly log: Logger;
}

/** A gateway that is ready to listen. */
export interface Gateway {
  readonly server: Server;
  /** Closes the connections to the website. */
  close(): Promise<void>;
}

/** One request on its way. */
interface Under {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly site: PreparedSite;
  readonly asked: Asked;
  readonly visitor: Visitor;
}

/**
 * A reverse proxy that lets the rules of a site decide each request before the website sees it
 * (RFC 9110, 7.6). What the rules let through is asked for in the very form in which it was judged.
 */
export function createGateway(options: GatewayOptions): Gateway {
  const { live, patience, proof, now, log } = options;
  const home = (): URL => new URL(options.reachedAt());
  const origins = new Map<string, Origin>();
  const originOf = (address: string): Origin => {
    let origin = origins.get(address);
    if (!origin) origins.set(address, (origin = originAt(address, patience)));
    return origin;
  };
  const website = originOf(options.origin);

  const judge = async (
    request: IncomingMessage,
  ): Promise<
    | { readonly status: number }
    | {
        readonly site: PreparedSite;
        readonly asked: Asked;
        readonly visitor: Visitor;
        readonly decision: Decision;
      }
  > => {
    const site = live();
    if (!site) return { status: 503 };
    const asked = readAsked(request, { reachedAt: home().host, site: site.site });
    if ('status' in asked) return asked;
    const visitor = await options.visitorOf(request, site);
    return { site, asked, visitor, decision: decide(site, asked, visitor, now()) };
  };

  const handle = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const judged = await judge(request);
    if ('status' in judged) {
      say(request, response, judged.status, null, {});
      return;
    }
    const { decision, ...rest } = judged;
    const under: Under = { request, response, ...rest };
    if (decision.outcome === 'reach') await pass(under, decision);
    else if (decision.location !== null) sendOn(under, decision, decision.location);
    else await refuse(under, decision.status, decision.content, decision.headers);
  };

  /** Lets a request through to the website, and its answer back. */
  const pass = async (under: Under, decision: Decision): Promise<void> => {
    const { request, response, site, asked } = under;
    const { method } = asked;
    const target = decision.served ?? askedFor(site, asked.address)!;
    const url = target.startsWith('/') ? null : new URL(target);
    const origin = url ? originOf(url.origin) : website;
    const path = url ? url.pathname + url.search : target;
    const fields = await fieldsFor(request, under.visitor, url?.host ?? site.site.host);
    const body = bodyOf(request);
    const isMissing = (status: number): boolean => status === 404 && isView(method);
    const status = await origin.ask(
      { method, path, fields, body, waits: response },
      (found, raw) => (isMissing(found) ? null : giveBack(under, found, raw, decision.headers)),
    );
    if (!isMissing(status)) return;
    const missing = notFoundAt(site, asked.address, under.visitor, now());
    await refuse(under, missing.status, missing.content, decision.headers);
  };

  /** Answers with one of the website's own pages, with words, or with a page of ours. */
  const refuse = async (
    under: Under,
    status: number,
    content: Content | null,
    headers: Readonly<Record<string, string>>,
  ): Promise<void> => {
    const { request, response, site } = under;
    if (content?.is === 'page' && isView(request.method!)) {
      const path = askedFor(site, content.address)!;
      const fields = await fieldsFor(request, under.visitor, site.site.host, true);
      const shown = await website
        .ask({ method: 'GET', path, fields, body: null, waits: response }, (found, raw) =>
          found === 200 ? giveBack(under, status, raw, headers) : null,
        )
        .catch(() => null);
      if (shown === 200 || response.headersSent || response.destroyed) return;
    }
    say(request, response, status, content, headers);
  };

  const giveBack = (
    { request, response }: Under,
    status: number,
    raw: readonly string[],
    headers: Readonly<Record<string, string>>,
  ): Writable | null => {
    response.writeHead(status, answeredFields(raw, headers));
    if (request.method !== 'HEAD') {
      // With the first of the content where that comes at once, and by themselves where it does not.
      setImmediate(() => response.flushHeaders());
      return response;
    }
    response.end();
    return null;
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

  const fieldsFor = async (
    request: IncomingMessage,
    visitor: Visitor,
    host: string,
    isOwn = false,
  ): Promise<RawFields> => {
    const fields = forwardedFields(request.rawHeaders);
    const kept = isOwn ? withoutConditions(fields) : fields;
    const { host: reached, protocol } = home();
    const by = forwardedBy(request.socket.remoteAddress, reached, protocol.slice(0, -1));
    const token = visitor.guest ? null : await proof.of(visitor, `https://${host}`, now());
    const who = token === null ? [] : [VISITOR_FIELD, token];
    return [...kept, 'Host', host, 'Forwarded', by, ...who];
  };

  const server = createServer((request, response) => {
    handle(request, response).catch((error: unknown) => {
      if (response.destroyed || response.headersSent) {
        response.destroy();
        return;
      }
      const status = error instanceof OriginProblem ? error.status : 500;
      log.warn({ err: error, status, path: request.url }, 'the gateway could not answer');
      say(request, response, status, null, { 'Cache-Control': 'no-store' });
    });
  });
  const upgrade = async (request: IncomingMessage, socket: Duplex, head: Buffer): Promise<void> => {
    const judged = await judge(request);
    const isIn = 'decision' in judged && judged.decision.outcome === 'reach';
    if (!isIn || judged.decision.served?.startsWith('http')) {
      const status = 'status' in judged ? judged.status : judged.decision.status;
      socket.end(`HTTP/1.1 ${status < 400 ? 403 : status} Refused\r\nConnection: close\r\n\r\n`);
      return;
    }
    const path = judged.decision.served ?? askedFor(judged.site, judged.asked.address)!;
    const fields = await fieldsFor(request, judged.visitor, judged.site.site.host);
    passUpgrade(options.origin, path, fields, { request, socket, head });
  };
  server.on('upgrade', (request, socket, head) => {
    // The server does not listen to the errors of a connection any more once it has handed it over.
    socket.on('error', () => socket.destroy());
    upgrade(request, socket, head).catch((error: unknown) => {
      log.warn({ err: error, path: request.url }, 'the gateway could not change the protocol');
      socket.destroy();
    });
  });
  // An upload takes as long as it takes; only the fields must come in time.
  server.requestTimeout = 0;
  server.headersTimeout = 60_000;
  return {
    server,
    close: async () => {
      await Promise.all([...origins.values()].map((origin) => origin.close()));
    },
  };
}

const isView = (method: string): boolean => method === 'GET' || method === 'HEAD';

/** The content of a request; that of GET and HEAD means nothing (RFC 9110, 9.3.1) and is not passed on. */
function bodyOf(request: IncomingMessage): IncomingMessage | null {
  const { method, headers } = request;
  const hasBody =
    headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
  return hasBody && !isView(method!) ? request : null;
}

/** A page that stands for another one is asked for as a whole. */
function withoutConditions(fields: RawFields): RawFields {
  return fields.filter((_, i) => {
    const name = fields[i - (i % 2)]!.toLowerCase();
    return !/^(?:if-.*|range|content-.*)$/.test(name);
  });
}

const MISREAD = new Set([400, 405, 421]);

/** Answers with a page of our own. */
function say(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  content: Content | null,
  headers: Readonly<Record<string, string>>,
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
