export {
  prepareInSteps,
  prepareSite,
  productTerms,
  type PreparedSite,
} from '../decision/prepared-site.ts';
export { decide } from '../decision/decide.ts';
export { isView, type Content, type Decision, type DecisionOutcome } from '../decision/decision.ts';
export { websiteAddress, notFoundAt } from '../decision/not-found-at.ts';
export { encodeLocation } from '../address/location.ts';
export { OUTCOMES, redirectsOf, visit, type Outcome, type Visit } from '../visit/visit.ts';
export { visitList, type ListedVisit } from '../visit/visit-list.ts';
export { grid, type Cell, type Grid, type Row } from '../grid/grid.ts';
export { landing } from '../landing/landing.ts';
export { visibilityOf, visibleTo, type Visible } from '../visible/visible.ts';
export { compareGrids, type ChangedCell, type GridChange } from '../comparison/compare-grids.ts';
export {
  compareVisit,
  type Answered,
  type ComparedVisit,
  type Effect,
  type SeenVisit,
} from '../probe/compare-visit.ts';
export { appliedRedirect, redirectKey } from '../redirects/applied.ts';
