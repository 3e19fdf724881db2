import { readFileSync } from 'node:fs';
import { createServer, ServerResponse, type IncomingMessage, type Server } from 'node:http';
import type { Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';
import { decisions, type model } from '@kleidon/core';
import { RESERVED_PREFIX } from '../sign-in/session-cookie.ts';
import type { VisitorProof } from '../sign-in/visitor-proof.ts';
import { answerBy, isHidden, isUndeclared } from './answer.ts';
import { originFieldsBy } from './origin-fields.ts';
import { clientKey, type ClientReader } from './origin/client.ts';
import type { Exchange } from './exchange.ts';
import { TooBusy, turnsWithin } from './origin/limits.ts';
import { UnclearPage } from './marks/marked-page.ts';
import { openExchanges, type OpenExchange } from './open-exchanges.ts';
import { originAt, OriginProblem, SlowUpload, type Origin } from './origin/origin.ts';
import { paceFor } from './origin/pace.ts';
import { readRequestTarget, type RequestTarget } from './request-target.ts';
import { sendPage } from './send-page.ts';
import type { PageReader } from './marks/page-reader.ts';
import { answerOwn } from './own-addresses.ts';
import type { SignIn } from './sign-in.ts';
import type { GatewayOutcome } from '../store/records.ts';
import type { Watch } from './watch.ts';
import { missingAddress } from './missing-address.ts';
import { GatewayRequest } from './web-socket.ts';
import type { Limits } from '../settings/limits.ts';

export interface GatewayOptions {
  /** The live release; asked for each request, so that a new one takes effect between two of them. */
  readonly live: () => decisions.PreparedSite | null;
  /** Protocol, host and port of the website. */
  readonly origin: string;
  /** Protocol and host at which visitors reach the gateway. */
  readonly publicAddress: () => string;
  /** How long the website may take to begin a response, in milliseconds. */
  readonly originTimeout: number;
  readonly limits: Limits;
  readonly clients: ClientReader;
  /** @param isLooking nobody asks: it is only looked whether someone who was let in still may be there */
  readonly visitorOf: (
    request: IncomingMessage,
    site: decisions.PreparedSite,
    isLooking: boolean,
  ) => model.Visitor | Promise<model.Visitor>;
  /** The gateway's own addresses; null where nobody signs in here. */
  readonly signIn: SignIn | null;
  readonly watch: Watch;
  /** Whether a request is one of the service's own, by which nothing is to be learnt of visitors. */
  readonly isOwn: (request: IncomingMessage) => boolean;
  readonly readPage: PageReader;
  /** Names of fields of requests that go on although they look like those that claim who is asking. */
  readonly allowedFields: readonly string[];
  /** Says to the website who a visitor is. */
  readonly proof: VisitorProof;
  readonly now: () => number;
  readonly log: Logger;
}

/** A gateway that is ready to listen. */
export interface Gateway {
  readonly server: Server;
  /** Ends what may last for ever: event streams and WebSockets. */
  closeStreams(): void;
  /** Closes the connections to the website. */
  close(): Promise<void>;
}

/** One client has no more connections than this; proxies that are trusted have as many as they like. */
const CONNECTIONS_PER_CLIENT = 512;
/** How long a client may take to close a connection that came to an end, in milliseconds. */
const LINGER = 5000;
/** On a site that hides pages, the delay of every address that may be missing, in milliseconds. */
const SETTLING = 1;
/** After so long without a byte, the system asks whether a client is still there, in milliseconds. */
const KEEP_ALIVE = 15_000;
const NO_STORE = { 'Cache-Control': 'no-store' };

/**
 * A reverse proxy that lets the rules of a site decide each request before the website sees it
 * (RFC 9110, 7.6). What the rules let through is asked for in the very form in which it was judged.
 */
export function createGateway(options: GatewayOptions): Gateway {
  const { live, originTimeout, limits, clients, signIn, now, log } = options;
  const home = homeAt(options.publicAddress);
  const turns = turnsWithin(limits);
  const pace = paceFor(limits.minimumRate, () => turns.isContended);
  const exchanges = openExchanges(log);
  const origins = new Map<string, Origin>();
  const originOf = (address: string): Origin => {
    let origin = origins.get(address);
    if (!origin) origins.set(address, (origin = originAt(address, { originTimeout, turns, pace })));
    return origin;
  };
  const website = originOf(options.origin);
  const watchOf = (request: IncomingMessage): Watch | null =>
    options.isOwn(request) ? null : options.watch;
  const fieldsFor = originFieldsBy(options.proof, home, options.allowedFields, now);
  const warn = fewLines(log, now);
  const answerTo = answerBy({
    website,
    originOf,
    home,
    fieldsFor,
    pace,
    pages: { readPage: options.readPage, originTimeout },
    now,
  });

  /** Whether a request that was let through would be so again, and lead to the same. */
  const stillAllowed = async (
    request: IncomingMessage,
    target: RequestTarget,
    before: decisions.Decision,
  ): Promise<boolean> => {
    const site = live();
    if (!site) return false;
    const visitor = await options.visitorOf(request, site, true);
    const decision = decisions.decide(site, target, visitor, now());
    const current = isHidden(decision)
      ? missingAddress(site, target, visitor, now())?.decision
      : decision;
    return current?.outcome === 'reach' && current.served === before.served;
  };

  const handle = async (
    request: IncomingMessage,
    response: ServerResponse,
    webSocket: Duplex | null,
  ): Promise<GatewayOutcome | null> => {
    const site = live();
    if (!site) {
      sendPage(request, response, 503, null, NO_STORE);
      return null;
    }
    const client = clients.read(request);
    const target = readRequestTarget(request, client, home(), site.site.host);
    if ('status' in target) {
      sendPage(request, response, target.status, null, {});
      return 'invalid';
    }
    const asking = options.visitorOf(request, site, false);
    const visitor = asking instanceof Promise ? await asking : asking;
    const own = { request, response, site, visitor, address: target.address, now: now() };
    if (answerOwn({ ...own, hasSignIn: signIn !== null })) return 'reach';
    if (signIn && isReserved(site, target.address)) {
      await signIn.answer(request, response, site);
      return 'reach';
    }
    const decision = decisions.decide(site, target, visitor, now());
    const watch = watchOf(request);
    watch?.decided(site, decision, client.address);
    const seemsMissing = site.hides && (decision.outcome === 'missing' || isUndeclared(decision));
    // Missing and hidden pages do the same work, and a timer hides the rest of the difference.
    const alike = seemsMissing ? missingAddress(site, target, visitor, now()) : null;
    if (seemsMissing) await pause(SETTLING);
    const missing = isHidden(decision) ? alike : null;
    const open: OpenExchange = {
      isStream: false,
      isAllowed: () => stillAllowed(request, target, missing?.decision ?? decision),
      close: () => (webSocket ?? response).destroy(),
    };
    const exchange: Exchange = {
      request,
      response,
      client,
      site,
      target,
      visitor,
      webSocket,
      open,
    };
    if (decision.outcome === 'reach' || missing) {
      const close = exchanges.add(open);
      response.once('close', close);
      webSocket?.once('close', close);
    }
    const how = await answerTo(exchange, decision, missing);
    // What is gone on purpose is known to be, and a hidden page is no mistake of anyone's.
    const isMiss = how === 'missing' && response.statusCode !== 410 && !isHidden(decision);
    if (isMiss && decisions.isView(target.method))
      watch?.missed(target.address, request.headers.referer, client.address);
    return how;
  };

  const answer = (
    request: IncomingMessage,
    response: ServerResponse,
    webSocket: Duplex | null,
  ): void => {
    const done = (how: GatewayOutcome | null): void => void (how && watchOf(request)?.ended(how));
    handle(request, response, webSocket).then(done, (error: unknown) => {
      done('failed');
      // The query may hold secrets, such as those of a sign-in.
      const path = request.url?.replace(/[?#].*$/s, '').slice(0, 500);
      const status = statusOf(error);
      warn({ why: whyOf(error), status, path }, 'the gateway could not answer');
      if (response.destroyed || response.headersSent) response.destroy();
      else sendPage(request, response, status, null, NO_STORE);
    });
  };

  const server = createServer(
    { IncomingMessage: GatewayRequest, keepAlive: true, keepAliveInitialDelay: KEEP_ALIVE },
    (request, response) => {
      if (request.hasDeclinedUpgrade) response.shouldKeepAlive = false;
      unanswered.add(request.socket, response);
      answer(request, response, null);
    },
  );
  const unanswered = unansweredRequests();
  server.on('upgrade', (request: IncomingMessage, socket: Socket, head: Buffer) => {
    // The server does not listen to the errors of a connection any more once it has handed it over.
    socket.on('error', () => socket.destroy());
    if (head.length > 0) socket.unshift(head);
    unanswered.whenNone(socket, () => {
      const response = new ServerResponse(request);
      response.shouldKeepAlive = false;
      response.assignSocket(socket);
      response.once('finish', () => {
        socket.end();
        setTimeout(() => socket.destroy(), LINGER).unref();
      });
      answer(request, response, socket);
    });
  });
  limitConnections(server, clients);
  // An upload takes as long as it takes; how fast it comes is for the pace to judge.
  server.requestTimeout = 0;
  server.headersTimeout = 20_000;
  return {
    server,
    closeStreams: () => exchanges.close(),
    close: async () => {
      pace.close();
      await Promise.all([...origins.values()].map((origin) => origin.close()));
    },
  };
}

/**
 * Counts the requests of each connection that wait for their response. A handshake may be pipelined behind them: it
 * waits, because a connection carries one response at a time.
 */
function unansweredRequests() {
  const waiting = new WeakMap<Socket, { count: number; next: (() => void) | null }>();
  return {
    add(socket: Socket, response: ServerResponse): void {
      let own = waiting.get(socket);
      if (!own) waiting.set(socket, (own = { count: 0, next: null }));
      const state = own;
      state.count++;
      response.once('close', () => {
        state.count--;
        if (state.count === 0 && !socket.destroyed) state.next?.();
      });
    },
    whenNone(socket: Socket, begin: () => void): void {
      const own = waiting.get(socket);
      if (own && own.count > 0) own.next = begin;
      else begin();
    },
  };
}

/** Where visitors reach the gateway, taken apart; that is known only once it listens. */
function homeAt(publicAddress: () => string): () => URL {
  let last = { text: '', url: new URL('http://localhost') };
  return () => {
    const text = publicAddress();
    if (text !== last.text) last = { text, url: new URL(text) };
    return last.url;
  };
}

/** Whether an address is one of the gateway's own, however it is spelled: the website is never asked for one. */
const isReserved = (site: decisions.PreparedSite, address: string): boolean =>
  address.startsWith(RESERVED_PREFIX) ||
  (/kleidon|%/i.test(address) &&
    decisions.websiteAddress(site, address)?.startsWith(RESERVED_PREFIX) === true);

/** The share of one client: less where the process may have few files open, of which each connection is one. */
function connectionsPerClient(): number {
  try {
    const limits = readFileSync('/proc/self/limits', 'utf8');
    const files = Number(/^Max open files\s+(\d+)/m.exec(limits)?.[1] ?? Infinity);
    return Math.min(CONNECTIONS_PER_CLIENT, Math.floor(files / 4));
  } catch {
    return CONNECTIONS_PER_CLIENT;
  }
}

/** Refuses connections of one client beyond its share. */
function limitConnections(server: Server, clients: ClientReader): void {
  const most = connectionsPerClient();
  const counts = new Map<string, number>();
  server.on('connection', (socket: Socket) => {
    const address = clientKey(socket.remoteAddress ?? '');
    if (clients.isTrusted(socket.remoteAddress ?? '')) return;
    const count = (counts.get(address) ?? 0) + 1;
    if (count > most) {
      socket.destroy();
      return;
    }
    counts.set(address, count);
    socket.once('close', () => {
      const left = counts.get(address)! - 1;
      if (left === 0) counts.delete(address);
      else counts.set(address, left);
    });
  });
}

function statusOf(error: unknown): number {
  if (error instanceof OriginProblem) return error.status;
  // Another program holds the database, or its disk is full.
  if (error instanceof TooBusy || /^SQLITE_(?:BUSY|FULL)/.test(codeOf(error))) return 503;
  if (error instanceof SlowUpload) return 408;
  return error instanceof UnclearPage ? 502 : 500;
}

/** Lines about requests in each second: strangers must not fill the disk with the log. */
const MOST_LINES = 20;

/** Warns of requests; of many in one second, it is said how many more there were. */
function fewLines(log: Logger, now: () => number): (about: object, what: string) => void {
  let second = 0;
  let lines = 0;
  return (about, what) => {
    const at = Math.floor(now() / 1000);
    if (at !== second) {
      const more = lines - MOST_LINES;
      if (more > 0) log.warn({ more }, 'more requests could not be answered');
      second = at;
      lines = 0;
    }
    if (++lines <= MOST_LINES) log.warn(about, what);
  };
}

const codeOf = (error: unknown): string =>
  String((error as { readonly code?: unknown } | null)?.code);

/** Why something failed, in the words of the errors: what else they hold may be secret. */
function whyOf(error: unknown): string {
  if (!(error instanceof Error)) return 'unknown';
  const { message, cause, stack } = error;
  if (error instanceof UnclearPage) return `The page can't be read with certainty: ${message}.`;
  const isKnown = statusOf(error) !== 500;
  const own = isKnown ? message : (stack ?? message);
  return cause instanceof Error ? `${own} ${whyOf(cause)}` : own;
}
