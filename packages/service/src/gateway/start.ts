import type { IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import { model } from '@kleidon/core';
import type { LiveSites } from '../analysis/live-sites.ts';
import type { LedgerStore } from '../store/ledger.ts';
import type { RecordStore } from '../store/records.ts';
import type { SessionStore } from '../store/sessions.ts';
import type { SiteStore } from '../store/sites.ts';
import { limitsOf, type GatewaySettings } from '../settings/settings.ts';
import { loginByToken } from '../sign-in/token.ts';
import type { VisitorProof } from '../sign-in/visitor-proof.ts';
import type { Seal } from '../sign-in/sealed.ts';
import { buyersOf } from './buyers.ts';
import { clientReader } from './origin/client.ts';
import { createGateway } from './gateway.ts';
import { healthOf } from './health.ts';
import type { PageReader } from './marks/page-reader.ts';
import { isTestProvider, signInAt, timesOf } from './sign-in.ts';
import type { ProbeMark } from './probe-mark.ts';
import { stoppable } from './stoppable.ts';
import { watchAt } from './watch.ts';
import type { GatewayState } from './gateway-state.ts';

/** What a gateway needs of the service. */
export interface GatewayContext {
  readonly sites: Pick<SiteStore, 'summary'>;
  readonly sessions: SessionStore;
  readonly records: RecordStore;
  readonly ledger: LedgerStore;
  /** The gateways that run, by the site that they are for. */
  readonly gateways: Map<string, GatewayState>;
  readonly live: LiveSites;
  readonly readPage: PageReader;
  readonly now: () => Date;
}

/** A gateway that takes requests. */
export interface RunningGateway extends GatewayState {
  close(): Promise<void>;
}

/** What the service keeps secret for its gateways. */
export interface GatewayKeys {
  readonly proof: VisitorProof;
  readonly seal: Seal;
  /** By which a gateway knows the requests of the service's own probes. */
  readonly probe: ProbeMark;
}

/**
 * Starts a gateway before a website.
 * @throws the error of the operating system, such as EADDRINUSE where the port is taken
 */
export async function startGateway(
  settings: GatewaySettings,
  context: GatewayContext,
  { proof, seal, probe }: GatewayKeys,
  log: Logger,
): Promise<RunningGateway> {
  const { site, host, port, origin, token } = settings;
  const live = () => context.live.of(site);
  await context.live.ready(site);
  let publicAddress = settings['public-address'] ?? '';
  const now = (): number => context.now().getTime();
  const buyers = buyersOf(site, context.ledger, now);
  const login = token ? loginByToken(token, now, log.child({ site })) : null;
  const signIn = settings['sign-in']
    ? signInAt({
        site,
        settings: settings['sign-in'],
        sessions: context.sessions,
        seal,
        publicAddress: () => publicAddress,
        buyers,
        now,
      })
    : null;
  const watch = watchAt({
    site,
    records: context.records,
    retentionDays: settings['retention-days'],
    home: () => new URL(publicAddress).origin,
    now,
    log,
  });
  const { server, closeStreams, close } = createGateway({
    live,
    origin,
    publicAddress: () => publicAddress,
    originTimeout: settings['origin-timeout'] * 1000,
    limits: limitsOf(settings.limits),
    clients: clientReader(settings['trusted-proxies']),
    visitorOf: (request, prepared, isLooking) => {
      const signedIn = signIn?.visitorOf(request, isLooking);
      if (signedIn) return buyers(speaking(signedIn, request));
      const byLogin = login?.visitorOf(request, prepared.site.timeZone) ?? model.GUEST;
      return byLogin instanceof Promise
        ? byLogin.then((visitor) => buyers(speaking(visitor, request)))
        : buyers(speaking(byLogin, request));
    },
    signIn,
    watch,
    isOwn: probe.isIn,
    readPage: context.readPage,
    allowedFields: settings['allowed-request-headers'],
    proof,
    now,
    log,
  });
  const stop = stoppable(server);
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  const address = `http://${host}:${(server.address() as AddressInfo).port}`;
  // Where nothing else stands before it, the gateway is reached where it listens.
  if (publicAddress === '') publicAddress = address;
  log.info({ site, address, origin }, 'gateway listening');
  if (context.sites.summary(site) === null)
    log.warn(
      { site },
      'there is no such site: all requests are answered with 503 until it is released',
    );
  // Whoever waits for the gateway need not wait for the login of the website.
  void login?.problems().then((problems) => {
    for (const problem of problems) log.warn({ site, problem }, 'the login of the website');
  });
  const running: RunningGateway = {
    site,
    address,
    publicAddress: new URL(publicAddress).origin,
    origin,
    signIn: settings['sign-in']
      ? {
          provider: settings['sign-in'].provider,
          isTestProvider: isTestProvider(settings['sign-in']),
          times: timesOf(settings['sign-in']),
        }
      : null,
    login: login && {
      by: token?.issuer ?? token!.keys,
      rejected: () => login.rejected(),
    },
    health: healthOf(origin, () => live()?.site.host ?? new URL(origin).host),
    close: async () => {
      context.gateways.delete(site);
      closeStreams();
      await stop();
      await close();
      watch.close();
    },
  };
  context.gateways.set(site, running);
  return running;
}

/** The visitor with the language that they ask for first (RFC 9110, 12.5.4), as conditions compare it. */
function speaking(visitor: model.Visitor, { headers }: IncomingMessage): model.Visitor {
  const language = /^\s*([a-z]{2,8})\b/i.exec(headers['accept-language'] ?? '')?.[1];
  return language === undefined ? visitor : { ...visitor, language: language.toLowerCase() };
}
