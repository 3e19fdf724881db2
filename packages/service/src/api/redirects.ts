import { Router } from 'express';
import * as yup from 'yup';
import { formats, proposals, queries, siteFiles, wording } from '@kleidon/core';
import { checkedInTime, draftOf, fileOf, preparedOf, sourceOf, type Context } from './context.ts';
import { state, validated, wholeField } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

const tableQuery = yup.object({
  state: state(),
  at: yup.string(),
  search: yup.string(),
  kind: yup.string().oneOf(['permanent', 'temporary'], '"kind" is permanent or temporary.'),
  status: yup
    .string()
    .oneOf(
      queries.REDIRECT_STATUSES,
      `"status" is one of ${queries.REDIRECT_STATUSES.join(', ')}.`,
    ),
  finding: yup.string(),
  list: yup.string(),
  order: yup
    .string()
    .oneOf(queries.REDIRECT_ORDERS, `"order" is one of ${queries.REDIRECT_ORDERS.join(', ')}.`),
  descending: yup.boolean().typeError('"descending" is true or false.'),
  skip: wholeField('skip', 1_000_000),
  limit: wholeField('limit', 1000),
});

const stateQuery = yup.object({ state: state(), at: yup.string() });

/** The redirects of a site as a table, what a spreadsheet would add to them, and what search engines read. */
export function redirectsRouter(context: Context): Router {
  const router = Router();

  registerRoute(router, '/api/sites/:site/redirects', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const { state: which, at: moment, ...filter } = validated(tableQuery, request.query);
      const prepared = preparedOf(context, site, which);
      const at = queries.readMoment(moment, prepared.site.timeZone, context.now().getTime());
      const source = sourceOf(context, site, which);
      const { findings } = context.states.check(source, fileOf(site), at);
      response.json(queries.redirectTable(prepared, findings, at, filter));
    },
  });

  registerRoute(router, '/api/sites/:site/redirect-proposals', {
    post: async (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const { state: which } = validated(stateQuery, request.query);
      if (typeof request.body !== 'string' || !request.is('text/csv'))
        throw new Problem(
          'wrong-media-type',
          `The body came as ${request.get('Content-Type') ?? 'nothing'}; a spreadsheet is text/csv.`,
        );
      const source = sourceOf(context, site, which);
      const proposal = proposed(siteFiles.valueOf(source.text), request.body);
      const text = proposals.withProposed(source.text, proposal);
      const { findings } = await checkedInTime(context, site, { ...source, text });
      const now = context.states.check(source, fileOf(site), context.now().getTime()).findings;
      response.json({ ...proposal, findings: queries.introducedFindings(now, findings) });
    },
  });

  registerRoute(router, '/api/sites/:site/search-engines/:file', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const query = validated(stateQuery, request.query);
      const prepared = preparedOf(context, site, query.state);
      const at = queries.readMoment(query.at, prepared.site.timeZone, context.now().getTime());
      const name = request.params['file'] as string;
      if (name === 'robots.txt') {
        response.type('text/plain').send(queries.writeRobots(prepared, at));
        return;
      }
      const file = queries.writeSitemaps(prepared, at).find((one) => one.name === name);
      if (!file)
        throw new Problem('no-such-place', `Of this site, search engines read no ${name}.`);
      response.type('application/xml').send(file.text);
    },
  });

  return router;
}

function proposed(site: ReturnType<typeof siteFiles.valueOf>, csv: string) {
  try {
    return queries.explainProposal(proposals.proposeRedirectsFromCsv(site, csv));
  } catch (error) {
    if (!(error instanceof formats.CsvSyntaxError)) throw error;
    const { message } = wording.describeCsvProblem(error.problem);
    throw new Problem('wrong-request', `Line ${error.line}: ${message}`, {
      errors: [{ pointer: '', message, line: error.line }],
    });
  }
}
