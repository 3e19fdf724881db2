import { Router } from 'express';
import { draftOf } from '../analysis/source.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { registerCalls } from './register-calls.ts';
import type { GatewayState } from '../gateway/gateway-state.ts';

const USUAL_HOURS = 24;
const MOST_SESSIONS = 500;
/** As many steps as a plot can show. */
const STEPS = 120;

/** What happens at the gateway of a site: its state, requests, misses, redirects in use, sessions. */
export function liveRouter(context: Context): Router {
  const router = Router();
  const now = (): number => context.now().getTime();
  const siteOf = ({ site }: { readonly site: string }): string => draftOf(context, site).site;
  const gatewayOf = (site: string): GatewayState => {
    const gateway = context.gateways.get(site);
    if (!gateway)
      throw new Problem('no-gateway', `No gateway runs for "${site}"; the settings name none.`);
    return gateway;
  };

  registerCalls(router, {
    getGateway: async ({ path }) => {
      const site = siteOf(path);
      const running = context.gateways.get(site);
      if (!running) return { gateway: null };
      const { address, publicAddress, origin, signIn, login } = running;
      const rejected = login?.rejected() ?? null;
      return {
        gateway: {
          address,
          publicAddress,
          origin,
          provider: signIn?.provider ?? null,
          testProvider: signIn?.isTestProvider ?? false,
          login: login &&
            rejected && {
              by: login.by,
              rejected: rejected.count,
              last: rejected.last && {
                reason: rejected.last.reason,
                at: new Date(rejected.last.at).toISOString(),
              },
            },
          sessions: signIn ? context.sessions.count(site, signIn.times, now()) : 0,
          health: await running.health(),
        },
      };
    },

    getTraffic: ({ path, query: { hours = USUAL_HOURS } }) => {
      const site = siteOf(path);
      const step = Math.ceil((hours * 60) / STEPS);
      const since = now() - hours * 3_600_000;
      return {
        since: new Date(since).toISOString(),
        minutes: step,
        counts: context.records.traffic(site, since, step),
      };
    },

    dropMiss: ({ path, query: { address } }) => {
      if (!context.records.dropMiss(siteOf(path), address))
        throw new Problem('no-such-place', `Nobody missed ${address}.`);
      return undefined;
    },

    getSessions: ({ path }) => {
      const site = siteOf(path);
      const { signIn } = gatewayOf(site);
      return {
        all: signIn ? context.sessions.count(site, signIn.times, now()) : 0,
        sessions: signIn ? context.sessions.list(site, signIn.times, now(), MOST_SESSIONS) : [],
      };
    },

    endSessions: ({ path, query: { visitor } }) => ({
      ended: context.sessions.endAll(siteOf(path), visitor),
    }),

    endSession: ({ path }) => {
      if (!context.sessions.endNamed(siteOf(path), path.session))
        throw new Problem('no-such-place', `No session "${path.session}" goes on.`);
      return undefined;
    },
  });

  return router;
}
