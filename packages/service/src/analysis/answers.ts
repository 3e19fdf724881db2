import type { Message } from '@kleidon/api';
import { decisions, formats, type model, queries } from '@kleidon/core';
import { alone, type Source } from './states.ts';
import {
  checkOf,
  draftOf,
  fileOf,
  listsOf,
  momentOf,
  preparedOf,
  sourceOf,
  type Analysis,
} from './source.ts';
import { TextAnswer, type Analyses } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';
import { summaryFor } from './summary.ts';

const MOST_VISITS = 300_000;
const USUAL_MOST = 100;

const LIST_COLUMNS = ['address', 'visitor', 'outcome', 'status', 'final', 'hops'] as const;

/** What Kleidon answers about a site: check, visit, grid, and the names that its rules use. */
export function answers(context: Analysis): Analyses {
  const isReleased = (site: string): boolean => context.sites.liveNumber(site) !== null;

  return {
    checkText: ({ query: { beside }, body: text }) =>
      context.states.check(
        beside === undefined ? alone(text) : { text, ...listsOf(context, beside) },
        'site.yaml',
        context.now(),
      ),

    check: ({ path, query }) => {
      const { site } = draftOf(context, path.site);
      const source = sourceOf(context, site, query.state);
      const check = checkOf(context, source, site);
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

    visitList: ({ path, query, body, prefers }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const visitors =
        body.as?.map((name) => queries.findVisitor(prepared, name)) ?? prepared.site.visitors;
      if (body.addresses.length * visitors.length > MOST_VISITS)
        throw new Problem('wrong-request', `These are more than ${MOST_VISITS} visits.`);
      const at = momentOf(context, prepared, query.at);
      const visits = decisions.visitList(prepared, body.addresses, visitors, at);
      return prefers('application/json', 'text/csv') === 'text/csv'
        ? new TextAnswer('text/csv', formats.writeTable(visits, LIST_COLUMNS))
        : { visits };
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
        families: true,
      };
      return packed(decisions.grid(prepared, visitors, at, filter));
    },

    getMisses: ({ path, query }) => {
      const { site } = draftOf(context, path.site);
      const { order = 'count', search = '', skip = 0, limit = USUAL_MOST } = query;
      const { found, rows } = context.records.misses(site, order, skip, limit, search);
      const live = isReleased(site) ? preparedOf(context, site, 'live') : null;
      return {
        found,
        misses: rows.map((row) => ({
          ...row,
          page: live && queries.pageTitleAt(live, row.address),
        })),
      };
    },

    getRedirectUses: ({ path, query: { order, skip = 0, limit = USUAL_MOST } }) => {
      const { site } = draftOf(context, path.site);
      const uses = new Map(context.records.uses(site).map((use) => [use.redirect, use]));
      const rows = isReleased(site)
        ? queries.redirectUses(preparedOf(context, site, 'live'), uses, order)
        : [];
      return {
        all: rows.length,
        used: rows.filter(({ count }) => count > 0).length,
        rows: rows.slice(skip, skip + limit),
      };
    },

    kinds: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      return queries.kindList(prepared, momentOf(context, prepared, query.at), query.under);
    },
  };
}

const isOfDraft = (state = 'draft'): boolean => state === 'draft' || state.startsWith('changes-');

/** The finding of a draft that was not released for long. */
function waitedDraft(context: Analysis, id: string, source: Source): model.Finding | null {
  const { prepared } = context.states.read(source, fileOf(id));
  const { draft, live } = summaryFor(context, id);
  if (!prepared || live === null || draft.isLive) return null;
  const savedAt = Date.parse(draft.savedAt);
  return queries.draftWaited(prepared, fileOf(id), draft.version, savedAt, context.now());
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
