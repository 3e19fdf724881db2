import type { decisions, model, proposals, queries } from '@kleidon/core';
import type {
  AboutSomeone,
  Check,
  DeletedSite,
  Draft,
  Effect,
  GatewayInfo,
  GridRequest,
  LandingRequest,
  Lists,
  MadeRelease,
  Miss,
  MissesRequest,
  Names,
  PendingChanges,
  RedirectsRequest,
  Release,
  ReleaseWithText,
  SavedDraft,
  SessionInfo,
  VisibleRequest,
  SiteSummary,
  Traffic,
  VisitListRequest,
  VisitRequest,
  WhoRequest,
} from './api.ts';

/** What a call asks about, besides what it says in its body. */
export interface AsOf {
  readonly state?: string | undefined;
  readonly at?: string | undefined;
}

/** The calls of the HTTP API, as described at /api/openapi.json. */
export interface Client {
  sites(): Promise<readonly SiteSummary[]>;
  site(site: string): Promise<SiteSummary>;
  /** Adds a site from a site file; without an id, one is made from its name. */
  addSite(text: string, id?: string): Promise<SiteSummary>;
  /** Deletes a site, whose name is repeated; it can be restored for 30 days. */
  deleteSite(site: string, confirm: string): Promise<void>;
  deletedSites(): Promise<readonly DeletedSite[]>;
  restoreSite(site: string): Promise<SiteSummary>;
  draft(site: string): Promise<Draft>;
  /** Saves the draft; throws ServiceProblem `draft-changed` when someone else has since `version`. */
  saveDraft(site: string, version: number, text: string): Promise<SavedDraft>;
  /** Changes parts of the draft, with a JSON Patch (RFC 6902); the rest keeps its comments and form. */
  patchDraft(
    site: string,
    version: number,
    patch: readonly model.PatchOperation[],
  ): Promise<SavedDraft>;
  /** The lists beside the draft; `version` is the draft's. */
  lists(site: string): Promise<Lists>;
  list(site: string, name: string): Promise<string>;
  /** Puts a list beside the draft; throws ServiceProblem `draft-changed` when someone else has saved since `version`. */
  saveList(site: string, version: number, name: string, text: string): Promise<SavedDraft>;
  removeList(site: string, version: number, name: string): Promise<SavedDraft>;
  /** The redirects as a table, searched, filtered and sorted. */
  redirects(
    site: string,
    request: RedirectsRequest,
    signal?: AbortSignal,
  ): Promise<queries.RedirectTable>;
  /** What a spreadsheet would add to the redirects, and change. */
  proposeRedirects(
    site: string,
    state: string,
    csv: string,
  ): Promise<queries.ExplainedProposal<proposals.RedirectsProposal> & Pick<Check, 'findings'>>;
  releases(site: string): Promise<readonly Release[]>;
  release(site: string, version: number, note: string): Promise<MadeRelease>;
  findRelease(site: string, number: number): Promise<ReleaseWithText>;
  check(site: string, state?: string): Promise<Check>;
  /** Checks a site file, with the lists beside the draft of a site where it has some. */
  checkText(text: string, signal?: AbortSignal, beside?: string): Promise<Check>;
  names(site: string, state?: string): Promise<Names>;
  visit(site: string, request: VisitRequest, signal?: AbortSignal): Promise<queries.ExplainedVisit>;
  visitList(
    site: string,
    request: VisitListRequest,
    signal?: AbortSignal,
  ): Promise<readonly decisions.ListedVisit[]>;
  /** The same as CSV (RFC 4180). */
  visitListCsv(site: string, request: VisitListRequest): Promise<string>;
  grid(site: string, request?: GridRequest, signal?: AbortSignal): Promise<decisions.Grid>;
  pages(site: string, state?: string): Promise<readonly queries.ListedPage[]>;
  /** The pages closest to an address where nothing is, of those that a visitor of the site file reaches. */
  suggestPages(
    site: string,
    request: {
      readonly address: string;
      readonly as: string;
      readonly at?: string;
      readonly state?: string;
    },
  ): Promise<readonly queries.SuggestedPage[]>;
  whoReaches(site: string, request: WhoRequest, signal?: AbortSignal): Promise<queries.WhoReaches>;
  /** All addresses of a page, and where each leads. */
  addressesOf(
    site: string,
    request: { readonly address: string; readonly as?: string; readonly state?: string },
    signal?: AbortSignal,
  ): Promise<readonly queries.PageAddress[]>;
  reachedBy(site: string, request: AboutSomeone): Promise<queries.ReachedBy>;
  landing(site: string, request: LandingRequest): Promise<queries.ExplainedLanding>;
  visible(site: string, request: VisibleRequest): Promise<decisions.Visible>;
  /** The pending edits under a name. */
  changes(site: string, id: string): Promise<PendingChanges>;
  addChange(site: string, id: string, edit: model.Edit): Promise<PendingChanges>;
  /** Drops one pending edit, or all. */
  dropChange(site: string, id: string, number: number | 'all'): Promise<PendingChanges>;
  /** Saves all pending edits; throws ServiceProblem `changes-refused` when one can't be made any more. */
  saveChanges(site: string, id: string): Promise<SavedDraft>;
  effect(
    site: string,
    state: string,
    edits: readonly model.Edit[],
    signal?: AbortSignal,
  ): Promise<Effect>;
  /** Reads a condition that was typed, or prints one that was built, and says whom it fits. */
  readCondition(
    site: string,
    state: string,
    given: ({ readonly text: string } | { readonly condition: model.Condition }) & {
      readonly addresses?: readonly string[];
    },
    signal?: AbortSignal,
  ): Promise<queries.ReadCondition & { readonly text: string }>;
  /** The gateway of a site; null where none runs. */
  gateway(site: string): Promise<{ readonly gateway: GatewayInfo | null }>;
  /** Requests at the gateway by outcome, over the last hours. */
  traffic(site: string, hours: number): Promise<Traffic>;
  misses(
    site: string,
    request?: MissesRequest,
  ): Promise<{ readonly found: number; readonly misses: readonly Miss[] }>;
  dropMiss(site: string, address: string): Promise<void>;
  /** The redirects of the live release with how often each was used. */
  redirectUses(
    site: string,
    request?: { readonly order?: string; readonly skip?: number; readonly limit?: number },
  ): Promise<{
    readonly all: number;
    readonly used: number;
    readonly rows: readonly queries.UsedRedirect[];
  }>;
  sessions(
    site: string,
  ): Promise<{ readonly all: number; readonly sessions: readonly SessionInfo[] }>;
  endSession(site: string, session: string): Promise<void>;
  /** Ends all sessions of a visitor; tells how many there were. */
  endSessionsOf(site: string, visitor: string): Promise<{ readonly ended: number }>;
  /** The site file as plain values. */
  document(site: string, state: string): Promise<Readonly<Record<string, unknown>>>;
}
