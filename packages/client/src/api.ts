import type { Answer, Body, Message, Query } from '@kleidon/api';

export type SiteSummary = Message<'Site'>;
export type DeletedSite = Message<'DeletedSite'>;
export type RestoredSite = Message<'RestoredSite'>;
export type Draft = Message<'Draft'>;
export type SavedDraft = Message<'SavedDraft'>;
export type Check = Message<'Check'>;
export type Release = Message<'Release'>;
export type ReleaseWithText = Message<'ReleaseWithText'>;
export type Names = Message<'Names'>;
export type PendingChanges = Message<'Changes'>;
export type Effect = Message<'Effect'>;
export type Comparison = Message<'Comparison'>;
export type StateToCompare = Message<'StateToCompare'>;
export type ScheduledRelease = Message<'ScheduledRelease'>;
export type DraftVersion = Message<'DraftVersion'>;
export type Kinds = Message<'Kinds'>;
export type Lists = Message<'Lists'>;
export type ListedGate = Message<'ListedGate'>;
export type GatewayInfo = Message<'Gateway'>;
export type Traffic = Message<'Traffic'>;
export type Miss = Message<'Miss'>;
export type KnownPurchase = Message<'LedgerPurchase'>;
export type StandingPurchase = Message<'StandingPurchase'>;
export type PurchaseSummary = Message<'PurchaseSummary'>;
export type ReconciledPurchases = Message<'ReconciledPurchases'>;
export type RejectedEvent = Message<'RejectedEvent'>;
export type BuyerName = Message<'BuyerName'>;
export type RefusedEvents = Message<'RefusedEvents'>;
export type TriedEvent = Answer<'tryShopEvent'>;
export type ReceivedEvent = Message<'ReceivedEvent'>;
export type ProbeInfo = Message<'Probe'>;
export type ProbeRun = Message<'ProbeRun'>;
export type ProbeDifference = Message<'ProbeDifference'>;
export type SessionInfo = Message<'Session'>;
export type ProblemDocument = Message<'Problem'>;

/** Which state of a site is asked about, and which moment. */
export type AsOf = Query<'visit'>;
export type MadeUpVisitor = Message<'MadeUpVisitor'>;
export type AboutSomeone = Body<'reachedBy'> & AsOf;
export type VisitRequest = Body<'visit'> & AsOf;
export type WhoRequest = Asked<Query<'whoReaches'>>;
export type RedirectsRequest = Asked<Query<'redirectTable'>>;
export type MissesRequest = Asked<Query<'getMisses'>>;
export type DifferencesRequest = Asked<Query<'getProbeDifferences'>>;
export type PurchasesRequest = Asked<Query<'getPurchases'>>;
export type PurchaseListRequest = Asked<Query<'listPurchases'>>;
export type BuyerRequest = Asked<Query<'eraseBuyer'>>;
export type ShopEventsRequest = Asked<Query<'getShopEvents'>>;
export type UsesRequest = Asked<Query<'getRedirectUses'>>;

export type Right = NonNullable<WhoRequest['right']>;

/** What is asked for; what may be left out may be undefined as well. */
export type Asked<T> = {
  readonly [Key in keyof T]: object extends Pick<T, Key> ? T[Key] | undefined : T[Key];
};
