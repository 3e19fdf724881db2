import type { Condition } from './condition.ts';
import type { ExpectedVisit } from './expected-visit.ts';
import type { Guarantee } from './guarantee.ts';
import type { Pattern } from './pattern.ts';
import type { Visitor } from './visitor.ts';
import type { Target } from './target.ts';
import type { QueryConstraint } from './query-constraint.ts';
import type { Tidy } from './tidy.ts';
import type { SourceLocation } from './source-location.ts';

/** A site as its file defines it, with every default filled in. Times are milliseconds since 1970. */
export interface Site {
  readonly name: string;
  readonly protocol: 'http:' | 'https:';
  readonly host: string;
  /** Other hosts of this site, which redirect to the primary one. */
  readonly also: readonly string[];
  readonly ungated: 'open' | 'closed';
  /** What happens to requests for addresses that no page has: 404, or the website is asked. */
  readonly undeclared: 'missing' | 'website';
  readonly change: 'as-view' | 'gated-only';
  readonly signIn: string | null;
  readonly fullAccess: Condition | null;
  /** Whether those who are admitted everywhere may also change things there. */
  readonly fullAccessRight: Right;
  readonly timeZone: string;
  readonly tidy: Tidy;
  /** Other addresses of the home page. */
  readonly homes: readonly string[];
  readonly roles: Readonly<Record<string, string>>;
  readonly groups: Readonly<Record<string, string>>;
  readonly products: Readonly<Record<string, Product>>;
  readonly audiences: Readonly<Record<string, Condition>>;
  readonly pages: readonly Page[];
  readonly gates: readonly Gate[];
  readonly redirects: readonly Redirect[];
  readonly rewrites: readonly Rewrite[];
  /** Other servers that rewrites may serve from: protocol and host. */
  readonly servers: readonly string[];
  readonly notFound: readonly NotFoundRule[];
  readonly landings: readonly Landing[];
  readonly parts: readonly SitePart[];
  readonly menus: readonly Menu[];
  readonly guarantees: readonly Guarantee[];
  /** Visits that are to end as they say. */
  readonly visits: readonly ExpectedVisit[];
  readonly accepted: readonly Accepted[];
  readonly visitors: readonly Visitor[];
  readonly place: SourceLocation;
}

export interface Product {
  readonly title: string;
  readonly term: 'subscription' | 'once';
  readonly buyAt: string | null;
  /** Where those renew whose purchase has run out; where it is sold, if null. */
  readonly renewAt: string | null;
  /** How long a purchase is in force after its end, in milliseconds. */
  readonly grace: number;
  /** The products that a purchase of it counts for as well. */
  readonly includes: readonly string[];
  readonly place: SourceLocation;
}

/** What is true between two moments; null is open on that side, and `until` is the first moment after. */
export interface Period {
  readonly validFrom: number | null;
  readonly validUntil: number | null;
}

export interface Page extends Period {
  readonly address: string;
  /** Other addresses of the page, which redirect to it. */
  readonly aliases: readonly string[];
  readonly pattern: Pattern;
  readonly title: string;
  readonly kind: 'document' | 'file';
  readonly missingUnless: Condition | null;
  readonly draft: boolean;
  readonly leadsTo: string | null;
  readonly https: boolean;
  /** Seconds after which a browser asks again; null for never. */
  readonly refresh: number | null;
  /** Whether search engines may list it. */
  readonly listed: boolean;
  /** It is visited for the grid, and by probes. */
  readonly inGrid: boolean;
  /** A real address of the page: its own, unless that is a pattern. */
  readonly example: string;
  readonly place: SourceLocation;
}

export type Right = 'view' | 'change';

/** A section (`under`) or exactly one address (`at`) that a rule is for. */
export interface Scope {
  readonly pattern: Pattern;
  readonly under: boolean;
}

export interface Gate extends Period {
  readonly name: string;
  readonly scopes: readonly Scope[];
  readonly right: Right;
  readonly admit: Condition;
  readonly otherwise: readonly Otherwise[];
  /** The next gate above must admit too; otherwise this one decides alone. */
  readonly narrows: boolean;
  /** Whether full access passes here. */
  readonly fullAccess: boolean;
  readonly rank: number;
  readonly place: SourceLocation;
}

/** What happens to those whom a gate does not admit. */
export type Otherwise = { readonly who: Condition } & (
  | { readonly do: 'sign-in' | 'offer' | 'hide' }
  | { readonly do: 'refuse'; readonly say: string | null; readonly show: string | null }
  | { readonly do: 'send'; readonly to: string }
);

/** A page that says where it leads, and leads there after some seconds. */
export interface Wait {
  readonly seconds: number;
  readonly say: string | null;
}

export interface Redirect extends Period {
  readonly source: string;
  readonly host: string | null;
  readonly pattern: Pattern;
  /** What the query must have; nothing as a rule. */
  readonly queryConstraints: readonly QueryConstraint[];
  readonly to: Target;
  readonly kind: 'permanent' | 'temporary';
  readonly query: 'keep' | 'drop';
  readonly when: Condition | null;
  readonly unlessPage: boolean;
  /** Seconds for which browsers may keep a permanent one; null for as long as is usual. */
  readonly keepFor: number | null;
  /** The page that stands in between for a while; null where the redirect is at once. */
  readonly wait: Wait | null;
  readonly note: string | null;
  readonly rank: number;
  /** The rewrite that this is the inverse of; null for a redirect of the site file. */
  readonly inverseOf: Rewrite | null;
  readonly place: SourceLocation;
}

/** What a redirect matches, and where it leads. */
export type InverseRedirect = Pick<
  Redirect,
  'source' | 'host' | 'pattern' | 'queryConstraints' | 'to'
>;

/** An address that is served from another one. */
export interface Rewrite extends Period {
  readonly source: string;
  readonly pattern: Pattern;
  readonly serve: Target;
  /** The inverse redirect, for those who ask for what is served; null where there is none. */
  readonly canonical: InverseRedirect | null;
  readonly when: Condition | null;
  readonly unlessPage: boolean;
  readonly note: string | null;
  readonly rank: number;
  readonly place: SourceLocation;
}

export interface NotFoundRule {
  readonly name: string;
  readonly scope: Scope;
  readonly show: string | null;
  readonly say: string | null;
  readonly status: 404 | 410;
  readonly rank: number;
  readonly place: SourceLocation;
}

/** Where visitors are taken after signing in or out. */
export interface Landing {
  readonly after: 'sign-in' | 'sign-out';
  readonly who: Condition;
  readonly go: string;
  /** The return address goes first, where the visitor reaches it. */
  readonly returnFirst: boolean;
  readonly rank: number;
  readonly place: SourceLocation;
}

/** A block of a page, or a menu entry, that only some visitors see. */
export interface SitePart {
  readonly name: string;
  readonly admit: Condition;
  readonly place: SourceLocation;
}

/** Links that stand on several pages. */
export interface Menu {
  readonly name: string;
  readonly links: readonly string[];
  /** The sections on whose pages it stands; everywhere where none is named. */
  readonly on: readonly string[];
  /** Links that lead this visitor to a refusal, a sign-in or nothing are left out. */
  readonly onlyUsable: boolean;
  readonly place: SourceLocation;
}

/** A finding that someone looked at and accepts. */
export interface Accepted {
  readonly finding: string;
  /** What the finding is about, such as `gate crew-room`; null for all findings of this kind. */
  readonly about: string | null;
  readonly note: string;
  readonly place: SourceLocation;
}
