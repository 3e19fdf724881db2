import type { decisions, queries } from '@kleidon/core';
import type { DeletedSite, ProblemDocument, Release, SiteSummary } from './api.ts';
import type { AsOf, Client } from './calls.ts';
import { ServiceProblem, Unreachable } from './errors.ts';

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

/** Reads an answer without content. */
const nothing = (): Promise<undefined> => Promise.resolve(undefined);

/** The fields that are given, as a query. */
function queryOf(request: object): string {
  const given = Object.entries(request).filter(([, value]) => value !== undefined);
  return new URLSearchParams(given.map(([name, value]) => [name, String(value)])).toString();
}
