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
  ProblemDocument,
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

/** The service answered with a problem document. */
export class ServiceProblem extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail ?? problem.title);
    this.name = 'ServiceProblem';
  }

  /** What kind of problem it is: the last step of its type, such as `draft-changed`. */
  get code(): string {
    return this.problem.type.split('/').at(-1)!;
  }
}

/** The service could not be reached, or what answered is not the service. */
export class Unreachable extends Error {
  constructor(address: string, cause: unknown) {
    super(`The service at ${address} can't be reached.`, { cause });
    this.name = 'Unreachable';
  }
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
  /** Drops one edit that waits, or all. */
  dropChange(site: string, id: string, number: number | 'all'): Promise<PendingChanges>;
  /** Saves all that waits; throws ServiceProblem `changes-refused` when one can't be made any more. */
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

/**
 * A client of one service.
 *
 * @param address where it is, such as `http://127.0.0.1:4780`; empty for the page's own origin
 * @returns calls that throw ServiceProblem for a problem document and Unreachable where nothing answers
 */
export function createClient(address: string): Client {
  const base = address.replace(/\/+$/, '');

  async function call<T>(
    path: string,
    init: RequestInit = {},
    read: (response: Response) => Promise<unknown> = (response) => response.json(),
  ): Promise<T> {
    let response: Response;
    let body: unknown;
    try {
      response = await fetch(base + path, {
        ...init,
        headers: { Accept: 'application/json', ...init.headers },
      });
      body = response.ok ? await read(response) : await response.json();
    } catch (error) {
      if (init.signal?.aborted) throw error;
      throw new Unreachable(base || 'this address', error);
    }
    if (response.ok) return body as T;
    if (response.headers.get('Content-Type')?.startsWith('application/problem+json')) {
      throw new ServiceProblem(body as ProblemDocument);
    }
    throw new Unreachable(base || 'this address', `It answered ${response.status}.`);
  }

  const at = (site: string, rest = ''): string => `/api/sites/${encodeURIComponent(site)}${rest}`;
  const yaml = { 'Content-Type': 'application/yaml' };
  const csv = { 'Content-Type': 'text/csv' };
  const json = { 'Content-Type': 'application/json' };
  const having = (version: number) => ({ 'If-Match': `"${version}"` });
  const withSignal = (signal: AbortSignal | undefined): RequestInit => (signal ? { signal } : {});

  /** Asks about a state of a site and a moment, which every call has in its query. */
  const ask = <T>(path: string, request: object, signal?: AbortSignal): Promise<T> => {
    const { state, at: moment, ...body }: AsOf = request;
    return post<T>(`${path}?${queryOf({ state, at: moment })}`, body, signal);
  };

  const post = <T>(path: string, body: unknown, signal?: AbortSignal): Promise<T> =>
    call(path, {
      method: 'POST',
      headers: json,
      body: JSON.stringify(body),
      ...withSignal(signal),
    });

  return {
    sites: async () => (await call<{ sites: SiteSummary[] }>('/api/sites')).sites,
    site: (site) => call(at(site)),
    addSite: (text, id) =>
      call(`/api/sites${id === undefined ? '' : `?id=${encodeURIComponent(id)}`}`, {
        method: 'POST',
        headers: yaml,
        body: text,
      }),
    deleteSite: (site, confirm) =>
      call(at(site, `?${queryOf({ confirm })}`), { method: 'DELETE' }, nothing),
    deletedSites: async () => (await call<{ sites: DeletedSite[] }>('/api/deleted-sites')).sites,
    restoreSite: (site) => post(`/api/deleted-sites/${encodeURIComponent(site)}/restore`, {}),
    draft: (site) => call(at(site, '/draft')),
    saveDraft: (site, version, text) =>
      call(at(site, '/draft'), {
        method: 'PUT',
        headers: { ...yaml, ...having(version) },
        body: text,
      }),
    patchDraft: (site, version, patch) =>
      call(at(site, '/draft'), {
        method: 'PATCH',
        headers: { 'Content-Type': 'application/json-patch+json', ...having(version) },
        body: JSON.stringify(patch),
      }),
    lists: (site) => call(at(site, '/lists')),
    list: (site, name) =>
      call(
        at(site, `/lists/${encodeURIComponent(name)}`),
        { headers: { Accept: 'text/csv' } },
        (response) => response.text(),
      ),
    saveList: (site, version, name, text) =>
      call(at(site, `/lists/${encodeURIComponent(name)}`), {
        method: 'PUT',
        headers: { ...csv, ...having(version) },
        body: text,
      }),
    removeList: (site, version, name) =>
      call(at(site, `/lists/${encodeURIComponent(name)}`), {
        method: 'DELETE',
        headers: having(version),
      }),
    redirects: (site, request, signal) =>
      call(at(site, `/redirects?${queryOf(request)}`), withSignal(signal)),
    proposeRedirects: (site, state, text) =>
      call(at(site, `/redirect-proposals?state=${state}`), {
        method: 'POST',
        headers: csv,
        body: text,
      }),
    releases: async (site) => (await call<{ releases: Release[] }>(at(site, '/releases'))).releases,
    release: (site, version, note) =>
      call(at(site, '/releases'), {
        method: 'POST',
        headers: { ...json, ...having(version) },
        body: JSON.stringify({ note }),
      }),
    findRelease: (site, number) => call(at(site, `/releases/${number}`)),
    check: (site, state = 'draft') => call(at(site, `/check?state=${state}`)),
    checkText: (text, signal, beside) =>
      call(`/api/check${beside === undefined ? '' : `?beside=${encodeURIComponent(beside)}`}`, {
        method: 'POST',
        headers: yaml,
        body: text,
        ...withSignal(signal),
      }),
    names: (site, state = 'draft') => call(at(site, `/names?state=${state}`)),
    pages: async (site, state = 'draft') =>
      (await call<{ pages: queries.ListedPage[] }>(at(site, `/pages?state=${state}`))).pages,
    visit: (site, request, signal) => ask(at(site, '/visits'), request, signal),
    visitList: async (site, request, signal) =>
      (await ask<{ visits: decisions.ListedVisit[] }>(at(site, '/visit-lists'), request, signal))
        .visits,
    visitListCsv: (site, { state, at: moment, ...request }) =>
      call(
        at(site, `/visit-lists?${queryOf({ state, at: moment })}`),
        {
          method: 'POST',
          headers: { ...json, Accept: 'text/csv' },
          body: JSON.stringify(request),
        },
        (response) => response.text(),
      ),
    addressesOf: async (site, request, signal) => {
      const path = at(site, `/addresses?${queryOf(request)}`);
      return (await call<{ addresses: queries.PageAddress[] }>(path, withSignal(signal))).addresses;
    },
    reachedBy: (site, request) => ask(at(site, '/reached-by'), request),
    landing: (site, request) => ask(at(site, '/landings'), request),
    visible: (site, request) => ask(at(site, '/visible'), request),
    changes: (site, id) => call(at(site, `/changes/${id}`)),
    addChange: (site, id, edit) => post(at(site, `/changes/${id}`), edit),
    dropChange: (site, id, number) =>
      call(at(site, `/changes/${id}${number === 'all' ? '' : `/edits/${number}`}`), {
        method: 'DELETE',
      }),
    saveChanges: (site, id) => post(at(site, `/changes/${id}/save`), {}),
    effect: (site, state, edits, signal) => ask(at(site, '/effect'), { state, edits }, signal),
    readCondition: (site, state, given, signal) =>
      ask(at(site, '/conditions'), { state, ...given }, signal),
    gateway: (site) => call(at(site, '/gateway')),
    traffic: (site, hours) => call(at(site, `/traffic?hours=${hours}`)),
    misses: (site, request = {}) => call(at(site, `/misses?${queryOf(request)}`)),
    dropMiss: (site, address) =>
      call(at(site, `/misses?${queryOf({ address })}`), { method: 'DELETE' }, nothing),
    redirectUses: (site, request = {}) => call(at(site, `/redirect-uses?${queryOf(request)}`)),
    sessions: (site) => call(at(site, '/sessions')),
    endSession: (site, session) =>
      call(at(site, `/sessions/${encodeURIComponent(session)}`), { method: 'DELETE' }, nothing),
    endSessionsOf: (site, visitor) =>
      call(at(site, `/sessions?${queryOf({ visitor })}`), { method: 'DELETE' }),
    document: (site, state) => call(at(site, `/document?state=${state}`)),
    suggestPages: async (site, request) => {
      const query = new URLSearchParams({ ...request }).toString();
      return (await call<{ pages: queries.SuggestedPage[] }>(at(site, `/suggestions?${query}`)))
        .pages;
    },
    whoReaches: (site, request, signal) =>
      call(at(site, `/who-reaches?${queryOf(request)}`), withSignal(signal)),
    grid: (site, { state, at: moment, under, visitors, outcomes } = {}, signal) => {
      const query = new URLSearchParams();
      if (state !== undefined) query.set('state', state);
      if (moment !== undefined) query.set('at', moment);
      if (under !== undefined) query.set('under', under);
      visitors?.forEach((visitor) => query.append('visitor', visitor));
      outcomes?.forEach((outcome) => query.append('outcome', outcome));
      return call(at(site, `/grid?${query.toString()}`), withSignal(signal));
    },
  };
}

/** What a call asks about, besides what it says in its body. */
interface AsOf {
  readonly state?: string | undefined;
  readonly at?: string | undefined;
}

/** Reads an answer without content. */
const nothing = (): Promise<undefined> => Promise.resolve(undefined);

/** The fields that are given, as a query. */
function queryOf(request: object): string {
  const given = Object.entries(request).filter(([, value]) => value !== undefined);
  return new URLSearchParams(given.map(([name, value]) => [name, String(value)])).toString();
}
