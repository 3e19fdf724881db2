export type * from '../model/site.ts';
export { type Attribute, type Purchase, type Visitor, GUEST } from '../model/visitor.ts';
export type { Condition, Operator, Value } from '../model/condition.ts';
export type { Reason } from '../model/reason.ts';
export type { Finding } from '../model/finding.ts';
export type { RowProblem } from '../model/row-problem.ts';
export type { Closure } from '../model/closure.ts';
export type { SiteErrorCode, SiteProblem, WantedType } from '../model/site-error.ts';
export type { SourceLocation } from '../model/source-location.ts';
export type { PatchOperation } from '../model/patch-operation.ts';
export type { Edit } from '../model/edit.ts';
export type { ListSection, NamedSection, SectionName } from '../model/section.ts';
export {
  SHOP_EVENT_TYPES,
  UNSAID,
  type ShopEvent,
  type ShopEventType,
} from '../model/shop-event.ts';
