import { Router } from 'express';
import * as yup from 'yup';
import { decisions, formats, queries } from '@kleidon/core';
import { alone } from '../check/states.ts';
import { draftOf, fileOf, listsOf, preparedOf, sourceOf, type Context } from './context.ts';
import { asOf, jsonFrom, listField, siteFileFrom, state, validated } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

const gridQuery = yup.object({
  state: state(),
  at: yup.string(),
  under: yup.string().matches(/^\//, '"under" is an address that begins with a slash.'),
  visitor: listField(),
  outcome: listField().test(
    'outcome',
    `"outcome" is one of ${decisions.OUTCOMES.join(', ')}.`,
    (values) =>
      !values || values.every((value) => (decisions.OUTCOMES as readonly string[]).includes(value)),
  ),
});

const checkQuery = yup.object({ beside: yup.string() });

const stateQuery = yup.object({ state: state() });

const visitBody = yup
  .object({
    address: yup.string().strict().defined('"address" is missing.'),
    as: yup.string().strict(),
    visitor: yup.mixed<object>(),
    method: yup
      .string()
      .default('GET')
      .matches(/^[A-Z]+$/, '"method" is an HTTP method in capitals.'),
  })
  .noUnknown('"${unknown}" is not a field of a visit.')
  .typeError('The body must be a JSON object.');

const MOST_ADDRESSES = 20_000;
const MOST_VISITS = 300_000;

const visitListBody = yup
  .object({
    addresses: yup
      .array(yup.string().strict().defined())
      .strict()
      .required('"addresses" is missing.')
      .max(MOST_ADDRESSES, `"addresses" has at most ${MOST_ADDRESSES} of them.`),
    as: yup.array(yup.string().strict().required()).strict(),
  })
  .noUnknown('"${unknown}" is not a field here.')
  .typeError('The body must be a JSON object.');

const LIST_COLUMNS = ['address', 'visitor', 'outcome', 'status', 'final', 'hops'] as const;

/** What Kleidon answers about a site: check, visit, grid, and the names that its rules use. */
export function answersRouter(context: Context): Router {
  const router = Router();
  const now = (): number => context.now().getTime();
  const siteIn = (params: Record<string, unknown>): string =>
    draftOf(context, params['site'] as string).site;

  registerRoute(router, '/api/check', {
    post: (request, response) => {
      const text = siteFileFrom(request);
      const { beside } = validated(checkQuery, request.query);
      const source = beside === undefined ? alone(text) : { text, ...listsOf(context, beside) };
      response.json(context.states.check(source, 'site.yaml', now()));
    },
  });

  registerRoute(router, '/api/sites/:site/check', {
    get: (request, response) => {
      const site = siteIn(request.params);
      const query = validated(stateQuery, request.query);
      response.json(
        context.states.check(sourceOf(context, site, query.state), fileOf(site), now()),
      );
    },
  });

  registerRoute(router, '/api/sites/:site/names', {
    get: (request, response) => {
      const { site } = preparedOf(
        context,
        siteIn(request.params),
        validated(stateQuery, request.query).state,
      );
      const { name, protocol, host, roles, groups, products } = site;
      response.json({
        name,
        address: `${protocol}//${host}`,
        roles,
        groups,
        products: Object.fromEntries(
          Object.entries(products).map(([product, { title }]) => [product, title]),
        ),
        visitors: site.visitors.map(({ name, title, summary }) => ({ name, title, summary })),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/visits', {
    post: (request, response) => {
      const { state: which, at: moment } = validated(asOf, request.query);
      const body = validated(visitBody, jsonFrom(request));
      const prepared = preparedOf(context, siteIn(request.params), which);
      const visitor = queries.chooseVisitor(prepared, body);
      const at = queries.readMoment(moment, prepared.site.timeZone, context.now().getTime());
      const { method, address } = body;
      response.json(
        queries.explainVisit(prepared, decisions.visit(prepared, { method, address }, visitor, at)),
      );
    },
  });

  registerRoute(router, '/api/sites/:site/visit-lists', {
    post: (request, response) => {
      const { state: which, at: moment } = validated(asOf, request.query);
      const body = validated(visitListBody, jsonFrom(request));
      const prepared = preparedOf(context, siteIn(request.params), which);
      const visitors =
        body.as?.map((name) => queries.findVisitor(prepared, name)) ?? prepared.site.visitors;
      if (body.addresses.length * visitors.length > MOST_VISITS)
        throw new Problem('wrong-request', `These are more than ${MOST_VISITS} visits.`);
      const at = queries.readMoment(moment, prepared.site.timeZone, context.now().getTime());
      const visits = decisions.visitList(prepared, body.addresses, visitors, at);
      response.vary('Accept');
      if (request.accepts(['application/json', 'text/csv']) === 'text/csv')
        response.type('text/csv').send(formats.writeTable(visits, LIST_COLUMNS));
      else response.json({ visits });
    },
  });

  registerRoute(router, '/api/sites/:site/grid', {
    get: (request, response) => {
      const query = validated(gridQuery, request.query);
      const prepared = preparedOf(context, siteIn(request.params), query.state);
      query.visitor?.forEach((name) => queries.findVisitor(prepared, name));
      const filter = {
        under: query.under,
        visitors: query.visitor,
        outcomes: query.outcome as decisions.Outcome[] | undefined,
      };
      const at = queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime());
      response.json(decisions.grid(prepared, prepared.site.visitors, at, filter));
    },
  });

  return router;
}
