export { draftWaited, inspect } from '../queries/inspect.ts';
export { introducedFindings } from '../findings/introduced.ts';
export { suggestPages, pageTitleAt, type SuggestedPage } from '../queries/suggest-pages.ts';
export { addressesOf, type PageAddress } from '../queries/addresses-of.ts';
export { examplesOf } from '../queries/examples.ts';
export { gateList, type ListedGate } from '../queries/gate-list.ts';
export { expectedVisits, type MadeVisit } from '../queries/expected-visits.ts';
export {
  guaranteeList,
  type ListedGuarantee,
  type ListedWitness,
} from '../queries/guarantee-list.ts';
export type { OrdinaryVisit } from '../queries/ordinary-visits.ts';
export { pageList, type ListedPage } from '../queries/page-list.ts';
export { reachedBy, type ReachedBy, type ReachedPage } from '../queries/reached-by.ts';
export {
  chooseVisitor,
  findVisitor,
  QuestionError,
  readMoment,
  readSection,
} from '../queries/question.ts';
export { undeclaredPages, type UndeclaredPage } from '../queries/undeclared-pages.ts';
export {
  whoReaches,
  type Ending,
  type ReachedAddress,
  type ReachedFamily,
  type WhoReaches,
} from '../queries/who-reaches.ts';
export { writeRobots, writeSitemaps, type EngineFile } from '../queries/search-engines.ts';
export { readCondition, type ReadCondition } from '../queries/read-condition.ts';
export {
  explainErrors,
  explainLanding,
  explainProposal,
  explainVisit,
  type ExplainedError,
  type ExplainedHop,
  type ExplainedLanding,
  type ExplainedProposal,
  type ExplainedReason,
  type ExplainedVisit,
} from '../queries/explain.ts';
export {
  REDIRECT_ORDERS,
  redirectTable,
  REDIRECT_STATUSES,
  type RedirectFilter,
  type RedirectRow,
  type RedirectTable,
} from '../redirects/redirect-table.ts';
export { redirectUses, USE_ORDERS, type UsedRedirect } from '../redirects/uses.ts';
export { compareSites, type Comparison, type ListedChange } from '../queries/comparison.ts';
export type {
  ComparedEnd,
  ComparedWitness,
  DifferenceKind,
  ListedDifference,
} from '../queries/listed-difference.ts';
export { kindList, kindVisitors, type ListedKind, type ListedKinds } from '../queries/kind-list.ts';
export { tryFix, type TriedFix } from '../queries/fix.ts';
