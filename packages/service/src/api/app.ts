import { randomUUID } from 'node:crypto';
import express, { type Express, type RequestHandler } from 'express';
import helmet from 'helmet';
import type { CallName } from '@kleidon/api';
import type { Logger } from 'pino';
import { siteFiles } from '@kleidon/core';
import { DESCRIPTION } from '../calls/description.ts';
import { describeProblem, Problem } from '../calls/problem.ts';
import { changesRouter } from './changes.ts';
import type { Context } from './context.ts';
import { draftsRouter } from './drafts.ts';
import { consoleRouter } from './console.ts';
import { READ_TYPES } from './input.ts';
import { liveRouter } from './live.ts';
import { listsRouter } from './lists.ts';
import { refuseOtherMethods, registerAnalyses, registerCalls, SENT } from './register-calls.ts';
import { answerProblems, nothingHere, sendProblem } from './problem.ts';
import { referenceRouter } from './reference.ts';
import { probeRouter } from './probe.ts';
import { purchasesRouter } from './purchases.ts';
import { shopsRouter } from './shops.ts';
import { releasesRouter } from './releases.ts';
import { sitesRouter } from './sites.ts';

export interface AppOptions {
  readonly context: Context;
  readonly log: Logger;
  /** The largest body that is taken, in bytes. */
  readonly maxBody: number;
  /** Host names that the service answers to, besides the names of this machine's loopback. */
  readonly allowedHosts: readonly string[];
  /** The folder of the built console; null serves none. */
  readonly consoleFolder: string | null;
  /** The keys by which websites check what a gateway says of visitors, as a JWKS. */
  readonly visitorKeys: object;
}

/** Bytes that an event of a shop may have. */
const MOST_EVENT = 64 * 1024;

const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];

/** The calls that only read and compute. */
const COMPUTED = [
  ...['checkText', 'check', 'names', 'visit', 'visitList', 'grid', 'kinds', 'compare'],
  ...['getMisses', 'getRedirectUses', 'redirectTable', 'proposeRedirects', 'searchEngines'],
  ...['whoReaches', 'suggestions', 'addressesOf', 'listPages', 'listGates'],
  ...['reachedBy', 'landing', 'visible'],
] as CallName[];

const SITE_FILE_SCHEMA = siteFiles.siteFileSchema();

/** The whole HTTP interface of the service. */
export function createApp({
  context,
  log,
  maxBody,
  allowedHosts,
  consoleFolder,
  visitorKeys,
}: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('query parser', 'simple');
  app.set('etag', false);
  app.use(
    logRequests(log),
    onlyKnownHosts([...LOOPBACK, ...allowedHosts]),
    helmet(SECURITY),
    onlyOwnPages,
  );
  // An event is small, and nothing of it is parsed before its signature was verified.
  app.use('/api/shops', refuseLongBodies(MOST_EVENT));
  app.use('/api/shops', express.raw({ type: () => true, limit: MOST_EVENT }));
  app.use(refuseLongBodies(maxBody));
  app.use(express.raw({ type: READ_TYPES, limit: maxBody }));

  registerCalls(app, {
    health: () => ({ status: 'ok' }),
    describe: () => ({ ...DESCRIPTION }),
    siteFileSchema: ({ response }) => {
      response.type('application/schema+json').send(JSON.stringify(SITE_FILE_SCHEMA));
      return SENT;
    },
    gatewayKeys: ({ response }) => {
      response.type('application/jwk-set+json').json(visitorKeys);
      return SENT;
    },
    describeProblem: ({ path }) => describeProblem(path.code),
  });
  registerAnalyses(app, context.analyses, COMPUTED);
  app.use(
    sitesRouter(context),
    draftsRouter(context),
    listsRouter(context),
    releasesRouter(context),
    changesRouter(context),
    liveRouter(context),
    probeRouter(context),
    shopsRouter(context, log),
    purchasesRouter(context),
  );
  refuseOtherMethods(app);
  app.use(referenceRouter());
  app.use('/api', nothingHere);
  if (consoleFolder !== null) app.use(consoleRouter(consoleFolder));
  app.use(nothingHere);
  app.use(answerProblems(log));
  return app;
}

/** Milliseconds for the client to read the answer before the connection is destroyed. */
const LINGER = 2000;

/** Answers as soon as a body is too large, and ends the connection. `express.raw` alone would first read it to the end. */
const refuseLongBodies =
  (limit: number): RequestHandler =>
  (request, response, next) => {
    let read = 0;
    request.on('data', (chunk: Buffer) => {
      const isFirst = read <= limit;
      read += chunk.length;
      if (read <= limit || !isFirst) return;
      // A client that has sent all of its body keeps its connection.
      const linger = setTimeout(() => request.socket.destroy(), LINGER);
      request.once('close', () => clearTimeout(linger));
      if (!response.headersSent)
        sendProblem(response, new Problem('too-large', `The body is over ${limit} bytes.`));
    });
    next();
  };

/** Styles are set by the console's components while it runs; everything else comes from here alone. */
const SECURITY = {
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'self'"],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:'],
      objectSrc: ["'none'"],
      baseUri: ["'self'"],
      frameAncestors: ["'none'"],
    },
  },
  // The service speaks HTTP on loopback; whoever puts it behind HTTPS says so there.
  strictTransportSecurity: false,
};

function logRequests(log: Logger): RequestHandler {
  return (request, response, next) => {
    const requestId = randomUUID();
    // A handler that is mounted at a prefix changes the path.
    const { method, path } = request;
    const start = process.hrtime.bigint();
    response.locals['requestId'] = requestId;
    response.set('X-Request-Id', requestId);
    response.on('close', () => {
      const ms = Number(process.hrtime.bigint() - start) / 1e6;
      log.info(
        { requestId, method, path, status: response.statusCode, ms: Math.round(ms * 10) / 10 },
        'request',
      );
    });
    next();
  };
}

/** A page of another site can make a browser ask for this machine by a name of its own; such a request is refused. */
function onlyKnownHosts(known: readonly string[]): RequestHandler {
  return (request, _response, next) => {
    const host = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
    if (!known.includes(host))
      throw new Problem('wrong-host', `The request was for the host "${host}".`);
    next();
  };
}

/**
 * Refuses what a page of another origin makes a browser ask (cross-site request forgery): everything about sites, and
 * every method that changes something. Browsers send both fields by themselves (Fetch Standard; W3C Fetch Metadata);
 * other clients send neither.
 */
const onlyOwnPages: RequestHandler = (request, _response, next) => {
  const { origin, host, 'sec-fetch-site': site } = request.headers;
  const isOwn =
    site === undefined
      ? origin === undefined || (URL.canParse(origin) && new URL(origin).host === host)
      : site === 'same-origin' || site === 'none';
  const isHarmless =
    (request.method === 'GET' || request.method === 'HEAD') &&
    !request.path.startsWith('/api/sites');
  if (!isOwn && !isHarmless)
    throw new Problem(
      'other-origin',
      'A page of another origin made the browser send this request.',
    );
  next();
};
