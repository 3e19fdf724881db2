import { Router } from 'express';
import * as yup from 'yup';
import { model, queries } from '@kleidon/core';
import { MISS_ORDERS } from '../store/records.ts';
import { draftOf, preparedOf, type Context } from './context.ts';
import { validated, wholeField } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';
import type { GatewayState } from '../gateway/gateway-state.ts';

const trafficQuery = yup.object({
  hours: yup
    .number()
    .min(1)
    .max(168, '"hours" is at most 168, a week.')
    .default(24)
    .typeError('"hours" is a number.'),
});

const missesQuery = yup.object({
  order: yup
    .string()
    .oneOf(MISS_ORDERS, `"order" is one of ${MISS_ORDERS.join(', ')}.`)
    .default('count'),
  search: yup.string().default(''),
  skip: wholeField('skip', 1_000_000),
  limit: wholeField('limit', 1000),
});

const oneMiss = yup.object({ address: yup.string().required('"address" is missing.') });

const usesQuery = yup.object({
  order: yup
    .string()
    .oneOf(queries.USE_ORDERS, `"order" is one of ${queries.USE_ORDERS.join(', ')}.`),
  skip: wholeField('skip', 1_000_000),
  limit: wholeField('limit', 1000),
});

const visitorQuery = yup.object({ visitor: yup.string().required('"visitor" is missing.') });

const USUAL_MOST = 100;
const MOST_SESSIONS = 500;
/** As many steps as a plot can show. */
const STEPS = 120;

/** What happens at the gateway of a site: its state, requests, misses, redirects in use, sessions. */
export function liveRouter(context: Context): Router {
  const router = Router();
  const now = (): number => context.now().getTime();
  const siteIn = (params: Record<string, unknown>): string =>
    draftOf(context, params['site'] as string).site;
  const gatewayOf = (site: string): GatewayState => {
    const gateway = context.gateways.get(site);
    if (!gateway)
      throw new Problem('no-gateway', `No gateway runs for "${site}"; the settings name none.`);
    return gateway;
  };
  const isReleased = (site: string): boolean => context.sites.liveNumber(site) !== null;

  registerRoute(router, '/api/sites/:site/gateway', {
    get: async (request, response) => {
      const site = siteIn(request.params);
      const running = context.gateways.get(site);
      if (!running) {
        response.json({ gateway: null });
        return;
      }
      const { address, publicAddress, origin, signIn, login } = running;
      const rejected = login?.rejected() ?? null;
      response.json({
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
      });
    },
  });

  registerRoute(router, '/api/sites/:site/traffic', {
    get: (request, response) => {
      const site = siteIn(request.params);
      const { hours } = validated(trafficQuery, request.query);
      const step = Math.ceil((hours * 60) / STEPS);
      const since = now() - hours * 3_600_000;
      response.json({
        since: new Date(since).toISOString(),
        minutes: step,
        counts: context.records.traffic(site, since, step),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/misses', {
    get: (request, response) => {
      const site = siteIn(request.params);
      const { order, search, skip = 0, limit = USUAL_MOST } = validated(missesQuery, request.query);
      const { found, rows } = context.records.misses(site, order, skip, limit, search);
      const live = isReleased(site) ? preparedOf(context, site, 'live') : null;
      response.json({
        found,
        misses: rows.map((row) => ({
          ...row,
          page: live && queries.pageTitleAt(live, row.address),
          suggestions: live ? queries.suggestPages(live, row.address, model.GUEST, now()) : [],
        })),
      });
    },
    delete: (request, response) => {
      const site = siteIn(request.params);
      const { address } = validated(oneMiss, request.query);
      if (!context.records.dropMiss(site, address))
        throw new Problem('no-such-place', `Nobody missed ${address}.`);
      response.status(204).end();
    },
  });

  registerRoute(router, '/api/sites/:site/redirect-uses', {
    get: (request, response) => {
      const site = siteIn(request.params);
      const { order, skip = 0, limit = USUAL_MOST } = validated(usesQuery, request.query);
      const uses = new Map(context.records.uses(site).map((use) => [use.redirect, use]));
      const rows = isReleased(site)
        ? queries.redirectUses(preparedOf(context, site, 'live'), uses, order)
        : [];
      response.json({
        all: rows.length,
        used: rows.filter(({ count }) => count > 0).length,
        rows: rows.slice(skip, skip + limit),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/sessions', {
    get: (request, response) => {
      const site = siteIn(request.params);
      const { signIn } = gatewayOf(site);
      const all = signIn ? context.sessions.count(site, signIn.times, now()) : 0;
      const sessions = signIn
        ? context.sessions.list(site, signIn.times, now(), MOST_SESSIONS)
        : [];
      response.json({ all, sessions });
    },
    delete: (request, response) => {
      const site = siteIn(request.params);
      const { visitor } = validated(visitorQuery, request.query);
      response.json({ ended: context.sessions.endAll(site, visitor) });
    },
  });

  registerRoute(router, '/api/sites/:site/sessions/:session', {
    delete: (request, response) => {
      const site = siteIn(request.params);
      const session = request.params['session'] as string;
      if (!context.sessions.endNamed(site, session))
        throw new Problem('no-such-place', `No session "${session}" goes on.`);
      response.status(204).end();
    },
  });

  return router;
}
