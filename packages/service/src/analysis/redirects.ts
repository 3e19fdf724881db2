import { formats, proposals, queries, siteFiles, wording } from '@kleidon/core';
import { checkOf, draftOf, momentOf, preparedOf, sourceOf, type Analysis } from './source.ts';
import type { Check } from './states.ts';
import { TextAnswer, type Analyses } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';

/** The redirects of a site as a table, what a spreadsheet would add to them, and what search engines read. */
export function redirects(context: Analysis): Analyses {
  return {
    redirectTable: ({ path, query: { state, at: moment, ...filter } }) => {
      const { site } = draftOf(context, path.site);
      const prepared = preparedOf(context, site, state);
      const at = momentOf(context, prepared, moment);
      const source = sourceOf(context, site, state);
      const { findings } = checkOf(context, source, site, at);
      return queries.redirectTable(prepared, findings, at, filter);
    },

    proposeRedirects: ({ path, query, body }) => {
      const { site } = draftOf(context, path.site);
      const source = sourceOf(context, site, query.state);
      const proposal = proposed(context.plans.valueOf(source.text), body);
      const text = proposals.withProposed(source.text, proposal);
      const [now, after] = [source, { ...source, text }].map((one) =>
        checkOf(context, one, site),
      ) as [Check, Check];
      return { ...proposal, findings: queries.introducedFindings(now.findings, after.findings) };
    },

    searchEngines: ({ path, query }) => {
      const prepared = preparedOf(context, path.site, query.state);
      const at = momentOf(context, prepared, query.at);
      if (path.file === 'robots.txt')
        return new TextAnswer('text/plain', queries.writeRobots(prepared, at));
      const file = queries.writeSitemaps(prepared, at).find((one) => one.name === path.file);
      if (!file)
        throw new Problem('no-such-place', `Of this site, search engines read no ${path.file}.`);
      return new TextAnswer('application/xml', file.text);
    },
  };
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
