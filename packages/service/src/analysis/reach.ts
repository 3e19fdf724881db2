import { decisions, model, queries } from '@kleidon/core';
import { momentOf, preparedOf, type Analysis } from './source.ts';
import type { Analyses, Asked } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';

/** The maximum number of pages or gates in one answer. */
const MOST_LISTED = 5000;

/** Who reaches a page, what a visitor reaches, where they land, and what they are shown. */
export function reach(context: Analysis): Analyses {
  const asked = ({
    path,
    query,
    body,
  }: Asked<'reachedBy'>): {
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

  return {
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
      const { skip = 0, limit = MOST_LISTED } = query;
      return {
        found: prepared.site.pages.length,
        pages: queries.pageList(prepared, momentOf(context, prepared, query.at), skip, limit),
      };
    },

    listGates: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const { skip = 0, limit = MOST_LISTED } = query;
      return {
        found: prepared.site.gates.length,
        gates: queries.gateList(prepared, momentOf(context, prepared, query.at), skip, limit),
      };
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
  };
}

const noSuchPage = (address: string): Problem =>
  new Problem('no-such-page', `No page of the site is at ${address}.`);
