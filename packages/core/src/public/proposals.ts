export { addEntries, withProposed } from '../import/add-entries.ts';
export { proposePagesFromCsv, type CsvProposal } from '../import/pages-csv.ts';
export {
  nameOfWebsite,
  proposeCrawl,
  type Crawl,
  type FoundMenu,
} from '../import/propose-crawl.ts';
export { proposePages, type FoundPage } from '../import/propose-pages.ts';
export { proposeRedirectsFromCsv, type RedirectsProposal } from '../import/redirects-csv.ts';
export type { Addition, Change, Proposal } from '../import/proposal.ts';
export { proposeVisitorsFromCsv } from '../import/visitors-csv.ts';
