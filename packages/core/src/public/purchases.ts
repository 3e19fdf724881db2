export { graceOf } from '../condition/product-terms.ts';
export { stateOf, type PurchaseState } from '../condition/purchase-state.ts';
export { purchasesAt, type Holders, type LedgerPurchase } from '../purchases/ledger.ts';
export {
  erasedName,
  foldEmail,
  isErased,
  knownName,
  readEmail,
  readVisitorId,
  type NameProblem,
  type ReadName,
} from '../purchases/names.ts';
export {
  purchaseCounter,
  type CountedMoments,
  type ProductCount,
  type PurchaseCounts,
} from '../purchases/count.ts';
export {
  asListed,
  differenceOf,
  LISTED_STATES,
  readPurchases,
  writePurchases,
  type DifferingPurchase,
  type ListedPurchase,
  type ListedState,
  type RefusedPurchase,
} from '../purchases/purchase-table.ts';
