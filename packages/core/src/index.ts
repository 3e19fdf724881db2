/** The plain types that everything shares: site, visitor, condition, reason, finding, error, edit. */
export * as model from './public/model.ts';
/** The site file: reading it, changing it, and what its fields are. */
export * as siteFiles from './public/site-files.ts';
/** What the rules decide: a request, a visit, a grid, a landing, what is visible. */
export * as decisions from './public/decisions.ts';
/** Purchases as shops tell of them: how they stand, how many there are, and lists of them. */
export * as purchases from './public/purchases.ts';
/** The questions that the API and the CLI ask of a prepared site. */
export * as queries from './public/queries.ts';
/** What sitemaps, crawls and CSV files would add to a site file. */
export * as proposals from './public/proposals.ts';
/** Open formats that are read and written. */
export * as formats from './public/formats.ts';
/** English for plain data. */
export * as wording from './public/wording.ts';
/** The language of conditions. */
export * as conditions from './public/conditions.ts';
