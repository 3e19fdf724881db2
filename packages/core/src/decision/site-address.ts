import { readAddress, type Address } from '../address/address.ts';
import type { AddressProblem } from '../model/address-problem.ts';
import type { Gate, Redirect, Right, Rewrite } from '../model/site.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import type { PreparedPage, PreparedSite } from './prepared-site.ts';

type Matches<T> = readonly Match<T>[];

/** Where a redirect leads from an address, and whether that is away from this site. */
export interface RedirectLocation {
  readonly rule: Redirect;
  readonly location: string;
  readonly isAway: boolean;
}

/** An address of a site with the rules that match it, whoever asks and whenever: each kind is looked up once. */
export class SiteAddress implements Address {
  readonly protocol: Address['protocol'];
  readonly host: string;
  readonly requestedPath: string;
  readonly path: string;
  readonly isRespelled: boolean;
  readonly query: string;
  /** It is at the site's primary host, where its pages are. */
  readonly isHome: boolean;
  /** Where the redirect leads that was applied here last; seldom there is another one. */
  redirected: RedirectLocation | null = null;
  readonly #site: PreparedSite;
  #page: Match<PreparedPage> | null | undefined = undefined;
  #redirects: Matches<Redirect> | undefined = undefined;
  #rewrites: Matches<Rewrite> | undefined = undefined;
  #viewGates: Matches<Gate> | undefined = undefined;
  #changeGates: Matches<Gate> | undefined = undefined;

  constructor(site: PreparedSite, address: Address) {
    this.protocol = address.protocol;
    this.host = address.host;
    this.requestedPath = address.requestedPath;
    this.path = address.path;
    this.isRespelled = address.isRespelled;
    this.query = address.query;
    this.isHome = address.host === site.site.host;
    this.#site = site;
  }

  /** The page at it; null where none is. */
  get page(): Match<PreparedPage> | null {
    if (this.#page === undefined)
      this.#page = this.isHome ? (lookUp(this.#site.pages, this.path)[0] ?? null) : null;
    return this.#page;
  }

  /** The redirects at its host, the most specific first. */
  get redirects(): Matches<Redirect> {
    return (this.#redirects ??= this.#findRedirects());
  }

  #findRedirects(): Matches<Redirect> {
    const { redirects, redirectsByHost } = this.#site;
    const index = this.isHome ? redirects : redirectsByHost.get(this.host);
    return index ? lookUp(index, this.path, this.query) : [];
  }

  /** The rewrites, the most specific first. */
  get rewrites(): Matches<Rewrite> {
    return (this.#rewrites ??= this.isHome ? lookUp(this.#site.rewrites, this.path) : []);
  }

  /** The gates for a right, the nearest first. */
  gates(right: Right): Matches<Gate> {
    const { gates } = this.#site;
    return right === 'view'
      ? (this.#viewGates ??= lookUp(gates.view, this.path))
      : (this.#changeGates ??= lookUp(gates.change, this.path));
  }
}

export type ReadSiteAddress =
  | { readonly ok: true; readonly address: SiteAddress }
  | { readonly ok: false; readonly problem: AddressProblem };

/**
 * Reads an address of a site.
 *
 * @param text a path with or without a query, or an absolute http(s) URL
 */
export function siteAddress(prepared: PreparedSite, text: string): ReadSiteAddress {
  const known = prepared.recent.get(text);
  if (known !== undefined) return known;
  const read = readAddress(text, prepared.site, prepared.site.tidy);
  const own: ReadSiteAddress = read.ok
    ? { ok: true, address: new SiteAddress(prepared, read.address) }
    : read;
  prepared.recent.add(text, own);
  return own;
}

/** Whether an address, a path or a whole URL, is one of the site. */
export function isOwnAddress(prepared: PreparedSite, address: string): boolean {
  if (address.startsWith('/')) return true;
  const read = siteAddress(prepared, address);
  return read.ok && prepared.hosts.has(read.address.host);
}
