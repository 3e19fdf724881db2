import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import type { Logger } from 'pino';
import {
  askedFor,
  decide,
  isView,
  type Decision,
  type PreparedSite,
  type Visitor,
} from '@kleidon/core';
import { OWN } from '../sign-in/session-cookie.ts';
import type { VisitorProof } from '../sign-in/visitor-proof.ts';
import { answersOf, say } from './answer.ts';
import { readAsked } from './asked.ts';
import { originAt, OriginProblem, type Origin } from './origin.ts';
import type { SignIn } from './sign-in.ts';
import { passUpgrade } from './upgrade.ts';
import type { Ended, Watch } from './watch.ts';

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
  /** The gateway's own addresses; null where nobody signs in here. */
  readonly signIn: SignIn | null;
  readonly watch: Watch;
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

/**
 * A reverse proxy that lets the rules of a site decide each request before the website sees it
 * (RFC 9110, 7.6). What the rules let through is asked for in the very form in which it was judged.
 */
export function createGateway(options: GatewayOptions): Gateway {
  const { live, patience, signIn, watch, now, log } = options;
  const home = (): URL => new URL(options.reachedAt());
  const origins = new Map<string, Origin>();
  const originOf = (address: string): Origin => {
    let origin = origins.get(address);
    if (!origin) origins.set(address, (origin = originAt(address, patience)));
    return origin;
  };
  const website = originOf(options.origin);

  const answers = answersOf({ website, originOf, home, proof: options.proof, now });

  const handle = async (
    request: IncomingMessage,
    response: ServerResponse,
  ): Promise<Ended | null> => {
    const site = live();
    if (!site) {
      say(request, response, 503, null, { 'Cache-Control': 'no-store' });
      return null;
    }
    const asked = readAsked(request, { reachedAt: home().host, site: site.site });
    if ('status' in asked) {
      say(request, response, asked.status, null, {});
      return 'invalid';
    }
    if (signIn && asked.address.startsWith(OWN)) {
      await signIn.answer(request, response, site);
      return 'reach';
    }
    const visitor = await options.visitorOf(request, site);
    const decision = decide(site, asked, visitor, now());
    watch.decided(site, decision);
    const under = { request, response, site, asked, visitor };
    const how = await answers.answer(under, decision);
    // What is gone on purpose is known to be.
    const isMiss = how === 'missing' && response.statusCode !== 410 && !isHidden(decision);
    if (isMiss && isView(asked.method)) watch.missed(asked.address, request.headers.referer);
    return how;
  };

  const server = createServer((request, response) => {
    const done = (how: Ended | null): void => void (how && watch.ended(how));
    handle(request, response).then(done, (error: unknown) => {
      done('failed');
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
    const refused = (status: number): void =>
      void socket.end(
        `HTTP/1.1 ${status < 400 ? 403 : status} Refused\r\nConnection: close\r\n\r\n`,
      );
    const site = live();
    if (!site) return void refused(503);
    const asked = readAsked(request, { reachedAt: home().host, site: site.site });
    if ('status' in asked) return void refused(asked.status);
    const visitor = await options.visitorOf(request, site);
    const decision = decide(site, asked, visitor, now());
    if (decision.outcome !== 'reach' || decision.served?.startsWith('http'))
      return void refused(decision.status);
    const path = decision.served ?? askedFor(site, asked.address)!;
    const fields = await answers.fieldsFor({ request, visitor }, site.site.host);
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

/** Whether a page is only said not to be there: its address is no mistake of anyone's. */
const isHidden = ({ reasons }: Decision): boolean =>
  reasons.some(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');
