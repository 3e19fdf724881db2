import { Router } from 'express';
import { decisions, model, queries } from '@kleidon/core';
import { momentOf, preparedOf, type Context } from './context.ts';
import { Problem } from './problem.ts';
import { registerCalls, type Call } from './register-calls.ts';

/** Who reaches a page, what a visitor reaches, where they land, and what they are shown. */
export function reachRouter(context: Context): Router {
  const router = Router();
  const asked = ({
    path,
    query,
    body,
  }: Pick<Call<'reachedBy'>, 'path' | 'query' | 'body'>): {
    prepared: decisions.PreparedSite;
    visitor: model.Visitor;
    at: number;
  } => {
    const prepared = preparedOf(context, path.site, query.state);
    return {
      prepared,
      visitor: queries.chooseVisitor(prepared, body),
      at: momentOf(context, prepared, query.at),
    };
  };

  registerCalls(router, {
    whoReaches: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const at = momentOf(context, prepared, query.at);
      const found = queries.whoReaches(prepared, query.address, at, query.right);
      if (!found) throw noSuchPage(query.address);
      return found;
    },

    suggestions: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const at = momentOf(context, prepared, query.at);
      const visitor = queries.findVisitor(prepared, query.as);
      return { pages: queries.suggestPages(prepared, query.address, visitor, at) };
    },

    addressesOf: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const at = momentOf(context, prepared, query.at);
      const visitor =
        query.as === undefined ? model.GUEST : queries.findVisitor(prepared, query.as);
      const addresses = queries.addressesOf(prepared, query.address, visitor, at);
      if (!addresses) throw noSuchPage(query.address);
      return { addresses };
    },

    listPages: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      return { pages: queries.pageList(prepared, momentOf(context, prepared, query.at)) };
    },

    listGates: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      return { gates: queries.gateList(prepared, momentOf(context, prepared, query.at)) };
    },

    reachedBy: (call) => {
      const { prepared, visitor, at } = asked(call);
      return queries.reachedBy(prepared, visitor, at);
    },

    landing: (call) => {
      const { prepared, visitor, at } = asked(call);
      const { after, from = null } = call.body;
      return queries.explainLanding(
        prepared,
        decisions.landing(prepared, after, visitor, from, at),
      );
    },

    visible: (call) => {
      const { prepared, visitor, at } = asked(call);
      return decisions.visibleTo(prepared, visitor, call.body.links ?? [], at);
    },
  });

  return router;
}

const noSuchPage = (address: string): Problem =>
  new Problem('no-such-page', `No page of the site is at ${address}.`);
