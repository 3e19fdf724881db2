import type { decisions, model } from '@kleidon/core';
import type { Body, Paths, Query } from '@kleidon/api';
import createFetch from 'openapi-fetch';
import type {
  AboutSomeone,
  AsOf,
  Asked,
  ProblemDocument,
  RedirectsRequest,
  VisitRequest,
  WhoRequest,
} from './api.ts';
import { ServiceProblem, Unreachable } from './errors.ts';
import { given } from './given.ts';
import { liveCalls } from './live-calls.ts';
import { allOf, asking, asText, at, CSV, of, type Fetched } from './parameters.ts';
import { purchaseCalls } from './purchase-calls.ts';
import { unpackGrid } from './unpack-grid.ts';

/** The calls of the HTTP API, as described at /api/openapi.json. */
export type Client = ReturnType<typeof createClient>;

/**
 * A client of one service.
 *
 * @param address where it is, such as `http://127.0.0.1:4780`; empty for the page's own origin
 * @returns calls that throw ServiceProblem for a problem document and Unreachable where nothing answers
 */
export function createClient(address: string) {
  const base = address.replace(/\/+$/, '');
  const options = { baseUrl: base, fetch: (request: Request) => fetch(request) };
  const http = createFetch<Paths, 'application/json'>({
    ...options,
    headers: { Accept: 'application/json' },
  });
  const asCsv = createFetch<Paths, 'text/csv'>({ ...options, headers: { Accept: 'text/csv' } });

  /** The content of an answer; a problem document is thrown. */
  async function contentOf<T>(call: Promise<Fetched<T>>): Promise<T> {
    const fetched = await call.catch((error: unknown) => {
      if ((error as { name?: unknown } | null)?.name === 'AbortError') throw error;
      throw new Unreachable(base || 'this address', error);
    });
    const { data, error, response } = fetched;
    if (response.ok) return data as T;
    if (response.headers.get('Content-Type')?.startsWith('application/problem+json'))
      throw new ServiceProblem(error as ProblemDocument);
    throw new Unreachable(base || 'this address', `It answered ${response.status}.`);
  }

  const ifMatch = (site: string, version: number) => ({
    ...at(site),
    header: { 'If-Match': `"${version}"` },
  });
  const yaml = asText('application/yaml');

  return {
    sites: async () => (await contentOf(http.GET('/api/sites'))).sites,
    site: (site: string) => contentOf(http.GET('/api/sites/{site}', of(site))),
    /** Adds a site from a site file; without an id, one is made from its name. */
    addSite: (text: string, id?: string) =>
      contentOf(http.POST('/api/sites', { ...yaml, params: { query: given({ id }) }, body: text })),
    /** Deletes a site, whose name is repeated; it can be restored for 30 days. */
    deleteSite: (site: string, confirm: string) =>
      contentOf(http.DELETE('/api/sites/{site}', asking(site, { confirm }))),
    deletedSites: async () => (await contentOf(http.GET('/api/deleted-sites'))).sites,
    restoreSite: (site: string) =>
      contentOf(http.POST('/api/deleted-sites/{site}/restore', of(site))),
    draft: (site: string) => contentOf(http.GET('/api/sites/{site}/draft', of(site))),
    /** Saves the draft; throws ServiceProblem `draft-changed` when someone else has since `version`. */
    saveDraft: (site: string, version: number, text: string) =>
      contentOf(
        http.PUT('/api/sites/{site}/draft', {
          ...yaml,
          params: ifMatch(site, version),
          body: text,
        }),
      ),
    /** Changes parts of the draft, with a JSON Patch (RFC 6902); the rest keeps its comments and form. */
    patchDraft: (site: string, version: number, patch: readonly model.PatchOperation[]) =>
      contentOf(
        http.PATCH('/api/sites/{site}/draft', {
          params: ifMatch(site, version),
          headers: { 'Content-Type': 'application/json-patch+json' },
          body: patch,
        }),
      ),
    /** Applies the remedy of a finding; throws ServiceProblem `fix-refused` where it would do something else too. */
    fixDraft: (site: string, version: number, finding: Pick<model.Finding, 'code' | 'about'>) =>
      contentOf(
        http.POST('/api/sites/{site}/fix', {
          params: ifMatch(site, version),
          body: { code: finding.code, about: finding.about },
        }),
      ),
    /** The lists beside the draft; `version` is the draft's. */
    lists: (site: string) => contentOf(http.GET('/api/sites/{site}/lists', of(site))),
    list: (site: string, list: string) =>
      contentOf(
        asCsv.GET('/api/sites/{site}/lists/{list}', {
          params: { path: { site, list } },
          parseAs: 'text',
        }),
      ),
    /** Puts a list beside the draft; throws ServiceProblem `draft-changed` when someone else has saved since `version`. */
    saveList: (site: string, version: number, list: string, text: string) =>
      contentOf(
        http.PUT('/api/sites/{site}/lists/{list}', {
          ...CSV,
          params: { ...ifMatch(site, version), path: { site, list } },
          body: text,
        }),
      ),
    removeList: (site: string, version: number, list: string) =>
      contentOf(
        http.DELETE('/api/sites/{site}/lists/{list}', {
          params: { ...ifMatch(site, version), path: { site, list } },
        }),
      ),
    /** The redirects as a table, searched, filtered and sorted. */
    redirects: (site: string, query: RedirectsRequest, signal?: AbortSignal) =>
      contentOf(
        http.GET('/api/sites/{site}/redirects', {
          ...asking(site, given(query)),
          ...given({ signal }),
        }),
      ),
    /** What a spreadsheet would add to the redirects, and change. */
    proposeRedirects: (site: string, state: string, text: string) =>
      contentOf(
        http.POST('/api/sites/{site}/redirect-proposals', {
          ...CSV,
          params: { ...at(site), query: { state } },
          body: text,
        }),
      ),
    /** The versions of the draft that are kept, the latest first. */
    draftVersions: async (site: string) =>
      (await contentOf(http.GET('/api/sites/{site}/draft/versions', of(site)))).versions,
    draftVersion: (site: string, version: number) =>
      contentOf(
        http.GET('/api/sites/{site}/draft/versions/{version}', {
          params: { path: { site, version } },
        }),
      ),
    /** Makes an earlier version of the draft the next one; `current` is the one that it replaces. */
    restoreDraft: (site: string, current: number, version: number) =>
      contentOf(
        http.POST('/api/sites/{site}/draft/versions/{version}/restore', {
          params: { ...ifMatch(site, current), path: { site, version } },
        }),
      ),
    /** Makes an earlier release live again, as a new one. */
    restoreRelease: (site: string, number: number, note: string, override?: string) =>
      contentOf(
        http.POST('/api/sites/{site}/releases/{number}/restore', {
          params: { path: { site, number } },
          body: { note, ...given({ override }) },
        }),
      ),
    /** The release that takes effect at a set time; null where none is scheduled. */
    scheduledRelease: async (site: string) =>
      (await contentOf(http.GET('/api/sites/{site}/scheduled-release', of(site)))).scheduled,
    /** Releases the draft at a time; throws ServiceProblem `release-scheduled` where one is scheduled already. */
    scheduleRelease: (site: string, version: number, body: Body<'scheduleRelease'>) =>
      contentOf(
        http.PUT('/api/sites/{site}/scheduled-release', { params: ifMatch(site, version), body }),
      ),
    cancelScheduledRelease: (site: string) =>
      contentOf(http.DELETE('/api/sites/{site}/scheduled-release', of(site))),
    releases: async (site: string) =>
      (await contentOf(http.GET('/api/sites/{site}/releases', of(site)))).releases,
    /** @param override why, where it breaks guarantees */
    release: (site: string, version: number, note: string, override?: string) =>
      contentOf(
        http.POST('/api/sites/{site}/releases', {
          params: ifMatch(site, version),
          body: { note, ...given({ override }) },
        }),
      ),
    findRelease: (site: string, number: number) =>
      contentOf(
        http.GET('/api/sites/{site}/releases/{number}', { params: { path: { site, number } } }),
      ),
    check: (site: string, state = 'draft') =>
      contentOf(http.GET('/api/sites/{site}/check', asking(site, { state }))),
    /** Checks a site file, with the lists beside the draft of a site where it has some. */
    checkText: (text: string, signal?: AbortSignal, beside?: string) =>
      contentOf(
        http.POST('/api/check', {
          ...yaml,
          params: { query: given({ beside }) },
          body: text,
          ...given({ signal }),
        }),
      ),
    names: (site: string, state = 'draft') =>
      contentOf(http.GET('/api/sites/{site}/names', asking(site, { state }))),
    visit: (site: string, request: VisitRequest, signal?: AbortSignal) =>
      contentOf(http.POST('/api/sites/{site}/visits', asked(site, request, signal))),
    visitList: async (site: string, request: Body<'visitList'> & AsOf, signal?: AbortSignal) =>
      (await contentOf(http.POST('/api/sites/{site}/visit-lists', asked(site, request, signal))))
        .visits,
    /** The same as CSV (RFC 4180). */
    visitListCsv: (site: string, request: Body<'visitList'> & AsOf) =>
      contentOf(
        asCsv.POST('/api/sites/{site}/visit-lists', { ...asked(site, request), parseAs: 'text' }),
      ),
    /** The kinds of visitors that the rules tell apart. */
    kinds: (site: string, query: Asked<Query<'kinds'>> = {}, signal?: AbortSignal) =>
      contentOf(
        http.GET('/api/sites/{site}/kinds', {
          ...asking(site, given(query)),
          ...given({ signal }),
        }),
      ),
    grid: (
      site: string,
      query: Asked<Query<'grid'>> = {},
      signal?: AbortSignal,
    ): Promise<decisions.Grid> => {
      const options = { ...asking(site, given(query)), ...given({ signal }) };
      return contentOf(http.GET('/api/sites/{site}/grid', options)).then(unpackGrid);
    },
    pages: (site: string, state = 'draft') =>
      allOf(async (skip) => {
        const query = { state, skip };
        const answer = await contentOf(http.GET('/api/sites/{site}/pages', asking(site, query)));
        return { found: answer.found, rows: answer.pages };
      }),
    /** The gates in words, with the pages that each covers and the gates around it. */
    gates: (site: string, state = 'draft') =>
      allOf(async (skip) => {
        const query = { state, skip };
        const answer = await contentOf(http.GET('/api/sites/{site}/gates', asking(site, query)));
        return { found: answer.found, rows: answer.gates };
      }),
    /** The pages closest to an address where nothing is, of those that a visitor of the site file reaches. */
    suggestPages: async (site: string, query: Query<'suggestions'>) =>
      (await contentOf(http.GET('/api/sites/{site}/suggestions', asking(site, query)))).pages,
    whoReaches: (site: string, query: WhoRequest, signal?: AbortSignal) =>
      contentOf(
        http.GET('/api/sites/{site}/who-reaches', {
          ...asking(site, given(query)),
          ...given({ signal }),
        }),
      ),
    /** All addresses of a page, and where each leads. */
    addressesOf: async (site: string, query: Query<'addressesOf'>, signal?: AbortSignal) =>
      (
        await contentOf(
          http.GET('/api/sites/{site}/addresses', { ...asking(site, query), ...given({ signal }) }),
        )
      ).addresses,
    reachedBy: (site: string, request: AboutSomeone) =>
      contentOf(http.POST('/api/sites/{site}/reached-by', asked(site, request))),
    landing: (site: string, request: Body<'landing'> & AsOf) =>
      contentOf(http.POST('/api/sites/{site}/landings', asked(site, request))),
    visible: (site: string, request: Body<'visible'> & AsOf) =>
      contentOf(http.POST('/api/sites/{site}/visible', asked(site, request))),
    /** The pending edits under a name. */
    changes: (site: string, changes: string) =>
      contentOf(
        http.GET('/api/sites/{site}/changes/{changes}', { params: { path: { site, changes } } }),
      ),
    addChange: (site: string, changes: string, edit: model.Edit) =>
      contentOf(
        http.POST('/api/sites/{site}/changes/{changes}', {
          params: { path: { site, changes } },
          body: edit,
        }),
      ),
    /** Drops one pending edit, or all. */
    dropChange: (site: string, changes: string, number: number | 'all') =>
      number === 'all'
        ? contentOf(
            http.DELETE('/api/sites/{site}/changes/{changes}', {
              params: { path: { site, changes } },
            }),
          )
        : contentOf(
            http.DELETE('/api/sites/{site}/changes/{changes}/edits/{number}', {
              params: { path: { site, changes, number } },
            }),
          ),
    /** Saves all pending edits; throws ServiceProblem `changes-refused` when one can't be made any more. */
    saveChanges: (site: string, changes: string) =>
      contentOf(
        http.POST('/api/sites/{site}/changes/{changes}/save', {
          params: { path: { site, changes } },
        }),
      ),
    /** Who gains access and who loses it between two states, or site files. */
    compare: (site: string, request: Body<'compare'>) =>
      contentOf(http.POST('/api/sites/{site}/comparison', { ...of(site), body: request })),
    effect: (site: string, state: string, edits: readonly model.Edit[], signal?: AbortSignal) =>
      contentOf(http.POST('/api/sites/{site}/effect', asked(site, { state, edits }, signal))),
    /** Reads a condition that was typed, or prints one that was built, and says whom it fits. */
    readCondition: (
      site: string,
      state: string,
      condition: Body<'readCondition'>,
      signal?: AbortSignal,
    ) =>
      contentOf(
        http.POST('/api/sites/{site}/conditions', asked(site, { state, ...condition }, signal)),
      ),
    /** The site file as plain values. */
    document: (site: string, state: string) =>
      contentOf(http.GET('/api/sites/{site}/document', asking(site, { state }))),
    ...liveCalls(http, contentOf),
    ...purchaseCalls(http, asCsv, contentOf),
  };

  /** A body that asks about a state and a moment, which every call has in its query. */
  function asked<T extends AsOf>(site: string, request: T, signal?: AbortSignal) {
    const { state, at: moment, ...body } = request;
    return {
      params: { ...at(site), query: given({ state, at: moment }) },
      body,
      ...given({ signal }),
    };
  }
}
