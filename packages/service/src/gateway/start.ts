import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import { GUEST, type PreparedSite } from '@kleidon/core';
import { preparedOf, type Context } from '../api/context.ts';
import type { GatewaySettings } from '../settings.ts';
import { visitorsByToken } from '../sign-in/token.ts';
import type { VisitorProof } from '../sign-in/visitor-proof.ts';
import { createGateway } from './gateway.ts';

/** A gateway that takes requests. */
export interface RunningGateway {
  readonly site: string;
  readonly address: string;
  readonly origin: string;
  close(): Promise<void>;
}

/**
 * Starts a gateway before a website.
 * @throws the error of the operating system, such as EADDRINUSE where the port is taken
 */
export async function startGateway(
  settings: GatewaySettings,
  context: Context,
  proof: VisitorProof,
  log: Logger,
): Promise<RunningGateway> {
  const { site, host, port, origin, patience, token } = settings;
  const live = liveSite(context, site);
  const byToken = token ? visitorsByToken(token) : () => GUEST;
  let reachedAt = settings['reached-at'] ?? '';
  const { server, close } = createGateway({
    live,
    origin,
    reachedAt: () => reachedAt,
    patience: patience * 1000,
    visitorOf: byToken,
    proof,
    now: () => context.now().getTime(),
    log,
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  const address = `http://${host}:${(server.address() as AddressInfo).port}`;
  // Where nothing else stands before it, the gateway is reached where it listens.
  if (reachedAt === '') reachedAt = address;
  log.info({ site, address, origin }, 'gateway listening');
  return {
    site,
    address,
    origin,
    close: async () => {
      await new Promise<void>((resolve) => {
        server.close(() => resolve());
        server.closeIdleConnections();
        setTimeout(() => server.closeAllConnections(), GRACE).unref();
      });
      await close();
    },
  };
}

/** How long requests that are under way may take to finish when the service stops, in milliseconds. */
const GRACE = 10_000;

/** The live release of a site, prepared anew only when another one is. */
function liveSite(context: Context, site: string): () => PreparedSite | null {
  let kept: { readonly number: number; readonly prepared: PreparedSite } | null = null;
  return () => {
    const number = context.sites.liveNumber(site);
    if (number === null) return null;
    if (kept?.number !== number) kept = { number, prepared: preparedOf(context, site, 'live') };
    return kept.prepared;
  };
}
