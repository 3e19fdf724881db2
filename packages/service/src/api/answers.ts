import { Router } from 'express';
import type { Message } from '@kleidon/api';
import { decisions, formats, type model, queries } from '@kleidon/core';
import { alone, type Source } from '../check/states.ts';
import {
  checkOf,
  draftOf,
  fileOf,
  listsOf,
  momentOf,
  preparedOf,
  sourceOf,
  type Context,
} from './context.ts';
import { Problem } from './problem.ts';
import { summaryFor } from './sites.ts';
import { registerCalls, SENT } from './register-calls.ts';

const MOST_VISITS = 300_000;

const LIST_COLUMNS = ['address', 'visitor', 'outcome', 'status', 'final', 'hops'] as const;

/** What Kleidon answers about a site: check, visit, grid, and the names that its rules use. */
export function answersRouter(context: Context): Router {
  const router = Router();
  const now = (): number => context.now().getTime();

  registerCalls(router, {
    checkText: ({ query: { beside }, body: text }) =>
      checkOf(
        context,
        beside === undefined ? alone(text) : { text, ...listsOf(context, beside) },
        'site.yaml',
        now(),
      ),

    check: async ({ path, query }) => {
      const { site } = draftOf(context, path.site);
      const source = sourceOf(context, site, query.state);
      const check = await checkOf(context, source, fileOf(site), now());
      const waited = isOfDraft(query.state) ? waitedDraft(context, site, source) : null;
      return waited ? { ...check, findings: [...check.findings, waited] } : check;
    },

    names: ({ path, query }) => {
      const { site } = preparedOf(context, path.site, query.state);
      const { name, protocol, host, timeZone, roles, groups, products } = site;
      return {
        name,
        address: `${protocol}//${host}`,
        timeZone,
        roles,
        groups,
        products: Object.fromEntries(
          Object.entries(products).map(([product, { title }]) => [product, title]),
        ),
        visitors: site.visitors.map(({ name, title, summary }) => ({ name, title, summary })),
      };
    },

    visit: ({ path, query, body }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const visitor = queries.chooseVisitor(prepared, body);
      const at = momentOf(context, prepared, query.at);
      const { method = 'GET', address } = body;
      return queries.explainVisit(
        prepared,
        decisions.visit(prepared, { method, address }, visitor, at),
      );
    },

    visitList: ({ path, query, body, request, response }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const visitors =
        body.as?.map((name) => queries.findVisitor(prepared, name)) ?? prepared.site.visitors;
      if (body.addresses.length * visitors.length > MOST_VISITS)
        throw new Problem('wrong-request', `These are more than ${MOST_VISITS} visits.`);
      const at = momentOf(context, prepared, query.at);
      const visits = decisions.visitList(prepared, body.addresses, visitors, at);
      response.vary('Accept');
      if (request.accepts(['application/json', 'text/csv']) !== 'text/csv') return { visits };
      response.type('text/csv').send(formats.writeTable(visits, LIST_COLUMNS));
      return SENT;
    },

    grid: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const { under, visitor, outcome } = query;
      const at = momentOf(context, prepared, query.at);
      const visitors = query.kinds
        ? queries.kindVisitors(prepared, at, under)
        : prepared.site.visitors;
      if (!query.kinds) visitor?.forEach((name) => queries.findVisitor(prepared, name));
      const filter = {
        under: queries.readSection(prepared, under),
        visitors: visitor,
        outcomes: outcome,
      };
      return packed(decisions.grid(prepared, visitors, at, filter));
    },

    kinds: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      return queries.kindList(prepared, momentOf(context, prepared, query.at), query.under);
    },
  });

  return router;
}

const isOfDraft = (state = 'draft'): boolean => state === 'draft' || state.startsWith('changes-');

/** The finding of a draft that was not released for long. */
function waitedDraft(context: Context, id: string, source: Source): model.Finding | null {
  const { prepared } = context.states.read(source, fileOf(id));
  const { draft, live } = summaryFor(context, id);
  if (!prepared || live === null || draft.isLive) return null;
  const savedAt = Date.parse(draft.savedAt);
  return queries.draftWaited(prepared, fileOf(id), draft.version, savedAt, context.now().getTime());
}

/** A grid as it is sent: visitors to whom the same happens at a page share what is said of it. */
function packed({ rows, ...grid }: decisions.Grid): Message<'Grid'> {
  return {
    ...grid,
    rows: rows.map(({ cells: byVisitor, ...row }) => {
      const cells = [...new Set(Object.values(byVisitor))];
      return {
        ...row,
        cells,
        cellOf: grid.visitors.map(({ name }) => cells.indexOf(byVisitor[name]!)),
      };
    }),
  };
}
