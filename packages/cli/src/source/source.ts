import type { Check, Kinds, WhoRequest } from '@kleidon/client';
import type { decisions, queries } from '@kleidon/core';

/** Who a question is about: a visitor of the site file, or one made up in YAML; and when. */
export interface About {
  readonly as?: string | undefined;
  readonly visitor?: string | undefined;
  readonly at?: string | undefined;
}

/** Which part of a grid is wanted, and when. */
export interface GridFilter {
  readonly under?: string | undefined;
  readonly visitors?: readonly string[] | undefined;
  readonly outcomes?: readonly decisions.Outcome[] | undefined;
  /** Against one visitor of each kind, in place of those of the site file. */
  readonly kinds?: boolean | undefined;
  readonly at?: string | undefined;
}

/** Where answers about a site come from: a file on this machine, or a service. */
export interface Source {
  /** Protocol and host of the site. */
  home(): Promise<string>;
  check(): Promise<Check>;
  whoReaches(request: Omit<WhoRequest, 'state'>): Promise<queries.WhoReaches>;
  reachedBy(about: About): Promise<queries.ReachedBy>;
  landing(
    about: About,
    after: queries.ExplainedLanding['after'],
    from?: string,
  ): Promise<queries.ExplainedLanding>;
  visible(about: About, links: readonly string[]): Promise<decisions.Visible>;
  visit(
    request: About & { readonly address: string; readonly method?: string },
  ): Promise<queries.ExplainedVisit>;
  suggestPages(address: string, as: string, at?: string): Promise<readonly queries.SuggestedPage[]>;
  visitList(
    addresses: readonly string[],
    as: readonly string[] | undefined,
    at?: string,
  ): Promise<readonly decisions.ListedVisit[]>;
  grid(request: GridFilter): Promise<decisions.Grid>;
  kinds(request: Pick<GridFilter, 'under' | 'at'>): Promise<Kinds>;
  pages(): Promise<readonly queries.ListedPage[]>;
}
