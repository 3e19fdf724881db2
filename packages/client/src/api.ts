import type { decisions, model, queries } from '@kleidon/core';

/** A site as the service lists it. */
export interface SiteSummary {
  readonly id: string;
  readonly name: string;
  readonly draft: {
    readonly version: number;
    readonly savedAt: string;
    readonly errors: number;
    readonly isLive: boolean;
  };
  readonly live: {
    readonly number: number;
    readonly releasedAt: string;
    readonly note: string;
  } | null;
}

/** A site that was deleted, and until when it can be restored. */
export interface DeletedSite {
  readonly id: string;
  readonly deletedAt: string;
  readonly keptUntil: string;
}

/** The draft of a site, with the version that a save must name. */
export interface Draft {
  readonly site: string;
  readonly version: number;
  readonly text: string;
  readonly savedAt: string;
}

export interface Check {
  readonly errors: readonly queries.ExplainedError[];
  readonly findings: readonly model.Finding[];
}

export interface SavedDraft extends Check {
  /** The findings that were not there before. */
  readonly introduced: readonly model.Finding[];
  readonly site: string;
  readonly version: number;
  readonly savedAt: string;
}

export interface Release {
  readonly site: string;
  readonly number: number;
  readonly note: string;
  readonly draftVersion: number;
  readonly releasedAt: string;
}

/** A release that was just made, and what it brings that the one before had not. */
export interface MadeRelease extends Release {
  readonly introduced: readonly model.Finding[];
}

export interface ReleaseWithText extends Release {
  readonly text: string;
}

/** The names that rules and visitors of a site may use. */
export interface Names {
  readonly name: string;
  readonly address: string;
  readonly roles: Readonly<Record<string, string>>;
  readonly groups: Readonly<Record<string, string>>;
  readonly products: Readonly<Record<string, string>>;
  readonly visitors: readonly {
    readonly name: string;
    readonly title: string;
    readonly summary: string;
  }[];
}

/** A visitor made up on the spot, in the shape that visitors have in a site file. */
export interface MadeUpVisitor {
  readonly title?: string;
  readonly guest?: boolean;
  readonly id?: string;
  readonly roles?: readonly string[];
  readonly groups?: readonly string[];
  readonly bought?: readonly {
    readonly product: string;
    readonly from?: string;
    readonly until?: string;
  }[];
}

/** Who a question is about, when, and in which state of the site. */
export interface AboutSomeone {
  readonly as?: string;
  readonly visitor?: MadeUpVisitor;
  readonly at?: string;
  readonly state?: string;
}

export interface LandingRequest extends AboutSomeone {
  readonly after: 'sign-in' | 'sign-out';
  readonly from?: string;
}

export interface VisibleRequest extends AboutSomeone {
  readonly links: readonly string[];
}

export interface WhoRequest {
  readonly address: string;
  readonly right?: string | undefined;
  readonly at?: string | undefined;
  readonly state?: string | undefined;
}

export interface VisitRequest {
  readonly address: string;
  readonly as?: string;
  readonly visitor?: MadeUpVisitor;
  readonly method?: string;
  readonly at?: string;
  readonly state?: string;
}

/** Many addresses, for some visitors of the site file or for all. */
export interface VisitListRequest {
  readonly addresses: readonly string[];
  readonly as?: readonly string[];
  readonly at?: string;
  readonly state?: string;
}

export interface GridRequest {
  readonly state?: string | undefined;
  readonly at?: string | undefined;
  readonly under?: string | undefined;
  readonly visitors?: readonly string[] | undefined;
  readonly outcomes?: readonly string[] | undefined;
}

/** Pending edits, which are saved together, and what stands in the way of each. */
export interface PendingChanges {
  readonly id: string;
  readonly draftVersion: number;
  readonly edits: readonly {
    readonly number: number;
    readonly edit: model.Edit;
    readonly says: string;
    readonly refused: string | null;
  }[];
  readonly operations: readonly model.PatchOperation[];
  readonly errors: readonly queries.ExplainedError[];
}

/** What edits would change in the reach grid. */
export interface Effect {
  readonly errors: readonly queries.ExplainedError[];
  readonly refused: readonly { readonly position: number; readonly message: string }[];
  /** The first of the cells that differ, and how many there are; null where a state has errors. */
  readonly change: (decisions.GridChange & { readonly changed: number }) | null;
  /** What would look wrong, and does not now; null where a state has errors. */
  readonly findings: readonly model.Finding[] | null;
  /** What would become of a guest at each of the addresses that were asked about. */
  readonly visits: readonly queries.ExplainedVisit[];
}

/** The lists beside the draft of a site. */
export interface Lists {
  readonly version: number;
  readonly lists: readonly {
    readonly name: string;
    readonly length: number;
    readonly hash: string;
  }[];
}

export type RedirectsRequest = queries.RedirectFilter & {
  readonly state?: string;
  readonly at?: string;
};

/** A problem document (RFC 9457) as the service sends it. */
export interface ProblemDocument {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail?: string;
  readonly remedy?: string;
  readonly errors?: readonly { readonly message: string }[];
  readonly version?: number;
  readonly savedAt?: string;
}

/** The gateway of a site: where it is, and how the website behind it does. */
export interface GatewayInfo {
  readonly address: string;
  readonly publicAddress: string;
  readonly origin: string;
  /** Where visitors sign in; null where nobody does. */
  readonly provider: string | null;
  /** The provider takes everyone at their word, so that pages can be opened as any visitor. */
  readonly testProvider: boolean;
  /** The website's own login, by signed tokens; null where it has none. */
  readonly login: {
    /** Its name, or where its keys are. */
    readonly by: string;
    /** How many tokens were not taken since the service began. */
    readonly rejected: number;
    readonly last: { readonly reason: string; readonly at: string } | null;
  } | null;
  readonly sessions: number;
  readonly health: {
    readonly isUp: boolean;
    readonly says: string;
    readonly took: number;
    readonly at: string;
  };
}

/** Requests at the gateway by outcome, in steps of so many minutes. */
export interface Traffic {
  readonly since: string;
  readonly minutes: number;
  readonly counts: readonly {
    readonly from: string;
    readonly outcome: string;
    readonly count: number;
  }[];
}

/** An address that was asked for and not found. */
export interface Miss {
  readonly address: string;
  readonly count: number;
  readonly first: string;
  readonly last: string;
  /** A page of the site, or another site. */
  readonly referrer: string | null;
  /** The title of the page at this very address, which is not open to those who asked. */
  readonly page: string | null;
  readonly suggestions: readonly { readonly address: string; readonly title: string }[];
}

export interface MissesRequest {
  readonly order?: string | undefined;
  readonly search?: string | undefined;
  readonly skip?: number | undefined;
  readonly limit?: number | undefined;
}

/** Someone who is signed in at the gateway. */
export interface SessionInfo {
  readonly session: string;
  readonly visitor: string;
  readonly title: string;
  readonly summary: string;
  readonly since: string;
  readonly seen: string;
  readonly until: string;
}
