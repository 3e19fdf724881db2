import { Router, type Request } from 'express';
import * as yup from 'yup';
import { decisions, model, queries } from '@kleidon/core';
import { draftOf, preparedOf, type Context } from './context.ts';
import { asOf, jsonFrom, state, validated } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

const whoQuery = yup.object({
  address: yup.string().required('"address" is missing.'),
  right: yup
    .string()
    .default('view')
    .oneOf(['view', 'change'] as const, '"right" is view or change.'),
  at: yup.string(),
  state: state(),
});

const suggestionsQuery = yup.object({
  address: yup.string().required('"address" is missing.'),
  as: yup.string().required('"as" is missing.'),
  at: yup.string(),
  state: state(),
});

const addressesQuery = yup.object({
  address: yup.string().required('"address" is missing.'),
  as: yup.string(),
  at: yup.string(),
  state: state(),
});

const someone = {
  as: yup.string().strict(),
  visitor: yup.mixed<object>(),
};

const body = <T extends yup.ObjectShape>(shape: T) =>
  yup
    .object({ ...someone, ...shape })
    .noUnknown('"${unknown}" is not a field here.')
    .typeError('The body must be a JSON object.');

const reachedBody = body({});

const landingBody = body({
  after: yup
    .string()
    .strict()
    .required('"after" is missing.')
    .oneOf(['sign-in', 'sign-out'] as const, '"after" is sign-in or sign-out.'),
  from: yup.string().strict(),
});

const shownBody = body({
  links: yup
    .array(yup.string().strict().required())
    .strict()
    .typeError('"links" is a list of addresses.')
    .max(1000, '"links" has at most 1000 addresses.'),
});

/** Who reaches a page, what a visitor reaches, where they land, and what they are shown. */
export function reachRouter(context: Context): Router {
  const router = Router();
  const preparedFor = (site: unknown, which: string): decisions.PreparedSite =>
    preparedOf(context, draftOf(context, site as string).site, which);
  const asking = (
    { params, query }: Request,
    who: { as?: string | undefined; visitor?: object | undefined },
  ): { prepared: decisions.PreparedSite; visitor: model.Visitor; at: number } => {
    const { state: which, at } = validated(asOf, query);
    const prepared = preparedFor(params['site'], which);
    return {
      prepared,
      visitor: queries.chooseVisitor(prepared, who),
      at: queries.readMoment(at, prepared.site.timeZone, context.now().getTime()),
    };
  };

  registerRoute(router, '/api/sites/:site/who-reaches', {
    get: (request, response) => {
      const query = validated(whoQuery, request.query);
      const prepared = preparedFor(request.params['site'], query.state);
      const at = queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime());
      const found = queries.whoReaches(prepared, query.address, at, query.right);
      if (!found) throw new Problem('no-such-page', `No page of the site is at ${query.address}.`);
      response.json(found);
    },
  });

  registerRoute(router, '/api/sites/:site/suggestions', {
    get: (request, response) => {
      const query = validated(suggestionsQuery, request.query);
      const prepared = preparedFor(request.params['site'], query.state);
      const at = queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime());
      const visitor = queries.findVisitor(prepared, query.as);
      response.json({ pages: queries.suggestPages(prepared, query.address, visitor, at) });
    },
  });

  registerRoute(router, '/api/sites/:site/addresses', {
    get: (request, response) => {
      const query = validated(addressesQuery, request.query);
      const prepared = preparedFor(request.params['site'], query.state);
      const at = queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime());
      const visitor =
        query.as === undefined ? model.GUEST : queries.findVisitor(prepared, query.as);
      const addresses = queries.addressesOf(prepared, query.address, visitor, at);
      if (!addresses)
        throw new Problem('no-such-page', `No page of the site is at ${query.address}.`);
      response.json({ addresses });
    },
  });

  registerRoute(router, '/api/sites/:site/pages', {
    get: (request, response) => {
      const query = validated(asOf, request.query);
      const prepared = preparedFor(request.params['site'], query.state);
      response.json({
        pages: queries.pageList(
          prepared,
          queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime()),
        ),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/reached-by', {
    post: (request, response) => {
      const body = validated(reachedBody, jsonFrom(request));
      const { prepared, visitor, at } = asking(request, body);
      response.json(queries.reachedBy(prepared, visitor, at));
    },
  });

  registerRoute(router, '/api/sites/:site/landings', {
    post: (request, response) => {
      const body = validated(landingBody, jsonFrom(request));
      const { prepared, visitor, at } = asking(request, body);
      const landed = decisions.landing(prepared, body.after, visitor, body.from ?? null, at);
      response.json(queries.explainLanding(prepared, landed));
    },
  });

  registerRoute(router, '/api/sites/:site/visible', {
    post: (request, response) => {
      const body = validated(shownBody, jsonFrom(request));
      const { prepared, visitor, at } = asking(request, body);
      response.json(decisions.visibleTo(prepared, visitor, body.links ?? [], at));
    },
  });

  return router;
}
