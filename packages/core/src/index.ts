export { encodeLocation } from './address/location.ts';
export type { Condition, Operator, Value } from './model/condition.ts';
export { CONDITION_WORDS } from './condition/vocabulary.ts';
export { parseCondition } from './condition/parse.ts';
export { printCondition } from './condition/print.ts';
export { compareGrids, type ChangedCell, type GridChange } from './comparison/compare-grids.ts';
export { decide } from './decision/decide.ts';
export { websiteAddress, notFoundAt } from './decision/not-found-at.ts';
export type { Edit } from './model/edit.ts';
export type { ListSection, NamedSection, SectionName } from './model/section.ts';
export { movedPages } from './site/edit/move-page.ts';
export { planEdits, valueOf, type PlannedEdits } from './site/edit/plan-edits.ts';
export { sayEdit } from './wording/edit.ts';
export { isView } from './decision/decision.ts';
export type { Content, Decision, DecisionOutcome, Request } from './decision/decision.ts';
export type { Reason, StageName, Verdict } from './model/reason.ts';
export { inspect } from './queries/inspect.ts';
export { introducedFindings } from './findings/introduced.ts';
export { landing, type Landed } from './landing/landing.ts';
export { suggestPages, pageTitleAt, type SuggestedPage } from './queries/suggest-pages.ts';
export { addressesOf, type PageAddress } from './queries/addresses-of.ts';
export { examplesOf } from './queries/examples.ts';
export { pageList, type ListedPage } from './queries/page-list.ts';
export { reachedBy, type ReachedBy } from './queries/reached-by.ts';
export { chooseVisitor, findVisitor, QuestionError, readMoment } from './queries/question.ts';
export { whoReaches, type WhoReaches } from './queries/who-reaches.ts';
export { visibilityOf, visibleTo, type Visible } from './visible/visible.ts';
export { writeRobots, writeSitemaps, type EngineFile } from './queries/search-engines.ts';
export { readSitemap, SitemapProblem, type Sitemap } from './formats/sitemap.ts';
export { grid, type Cell, type Grid, type GridFilter, type Row } from './grid/grid.ts';
export { addEntries, withProposed } from './import/add-entries.ts';
export { proposePagesFromCsv, type CsvProposal } from './import/pages-csv.ts';
export { proposePages, type FoundPage } from './import/propose-pages.ts';
export { proposeRedirectsFromCsv, type RedirectsProposal } from './import/redirects-csv.ts';
export { redirectForList } from './pattern/literally.ts';
export { REDIRECT_COLUMNS } from './site/fields/redirect-columns.ts';
export type { Addition, Change, RejectedRow, Proposal } from './import/proposal.ts';
export { proposeVisitorsFromCsv } from './import/visitors-csv.ts';
export {
  compareVisit,
  type Answered,
  type ComparedVisit,
  type Difference,
  type Effect,
} from './probe/compare-visit.ts';
export { writeJunit, type TestCase } from './formats/junit.ts';
export { CsvSyntaxError, writeTable } from './formats/csv.ts';
export { describeCsvProblem } from './wording/csv-problem.ts';
export {
  REDIRECT_ORDERS,
  redirectTable,
  REDIRECT_STATUSES,
  type RedirectFilter,
  type RedirectRow,
  type RedirectTable,
} from './redirects/redirect-table.ts';
export {
  explainErrors,
  explainLanding,
  explainProposal,
  explainReason,
  explainVisit,
  type ExplainedError,
  type ExplainedHop,
  type ExplainedLanding,
  type ExplainedProposal,
  type ExplainedReason,
  type ExplainedVisit,
} from './queries/explain.ts';
export {
  sectionDeclarations,
  siteDeclaration,
  type FieldDeclaration,
  type SectionDeclaration,
} from './site/fields/declarations.ts';
export { siteFileSchema } from './site/fields/json-schema.ts';
export { parsePattern } from './pattern/parse.ts';
export { prepareSite, type PreparedSite } from './decision/prepared-site.ts';
export { patchSite, PatchProblem } from './site/edit/patch.ts';
export type { SiteError, SiteErrorCode } from './model/site-error.ts';
export type { PatchOperation } from './model/patch-operation.ts';
export type { Finding } from './model/finding.ts';
export { readSite, type ReadSite } from './site/read/read.ts';
export type { ListOf } from './site/read/redirect-list.ts';
export { appliedRedirect, redirectKey } from './redirects/applied.ts';
export { redirectUses, USE_ORDERS, type UsedRedirect, type UseOrder } from './redirects/uses.ts';
export { redirectEntry } from './redirects/redirect-entry.ts';
export { readCondition, type ReadCondition } from './queries/read-condition.ts';
export { readVisitor, type ReadVisitor } from './site/read/read-visitor.ts';
export type * from './model/site.ts';
export type { SourceLocation } from './model/source-location.ts';
export type { Attribute, Purchase, Visitor } from './model/visitor.ts';
export { GUEST } from './model/visitor.ts';
export { summarize } from './wording/visitor-summary.ts';
export { readInstant, printInstant } from './time/instant.ts';
export { OUTCOMES, redirectsOf, visit, type Hop, type Outcome, type Visit } from './visit/visit.ts';
export { visitList, type ListedVisit } from './visit/visit-list.ts';
export { inWords } from './text/list.ts';
export { didYouMean } from './wording/suggestion.ts';
