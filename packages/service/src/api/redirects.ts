import { Router } from 'express';
import { formats, proposals, queries, siteFiles, wording } from '@kleidon/core';
import {
  checkOf,
  checkedInTime,
  draftOf,
  fileOf,
  momentOf,
  preparedOf,
  sourceOf,
  type Context,
} from './context.ts';
import { Problem } from './problem.ts';
import { registerCalls, SENT } from './register-calls.ts';

/** The redirects of a site as a table, what a spreadsheet would add to them, and what search engines read. */
export function redirectsRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    redirectTable: async ({ path, query: { state, at: moment, ...filter } }) => {
      const { site } = draftOf(context, path.site);
      const prepared = preparedOf(context, site, state);
      const at = momentOf(context, prepared, moment);
      const source = sourceOf(context, site, state);
      const { findings } = await checkOf(context, source, fileOf(site), at);
      return queries.redirectTable(prepared, findings, at, filter);
    },

    proposeRedirects: async ({ path, query, body }) => {
      const { site } = draftOf(context, path.site);
      const source = sourceOf(context, site, query.state);
      const proposal = proposed(siteFiles.valueOf(source.text), body);
      const text = proposals.withProposed(source.text, proposal);
      const { findings } = await checkedInTime(context, site, { ...source, text });
      const now = await checkOf(context, source, fileOf(site), context.now().getTime());
      return { ...proposal, findings: queries.introducedFindings(now.findings, findings) };
    },

    searchEngines: ({ path, query, response }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const at = momentOf(context, prepared, query.at);
      if (path.file === 'robots.txt') {
        response.type('text/plain').send(queries.writeRobots(prepared, at));
        return SENT;
      }
      const file = queries.writeSitemaps(prepared, at).find((one) => one.name === path.file);
      if (!file)
        throw new Problem('no-such-place', `Of this site, search engines read no ${path.file}.`);
      response.type('application/xml').send(file.text);
      return SENT;
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
