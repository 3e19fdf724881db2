import type { Untried } from '@kleidon/probe';
import type { FoundDifference } from '../store/probes.ts';

/** What the thread of a probe works on. */
export interface ProbeJob {
  /** The site file that is live, what it is called in errors, and the lists beside it. */
  readonly text: string;
  readonly file: string;
  readonly lists: readonly (readonly [name: string, text: string])[];
  /** Protocol and host of the website. */
  readonly website: string;
  /** What is sent along to it, whoever the visitor is. */
  readonly fields: Readonly<Record<string, string>>;
  readonly testProvider: string | null;
  /** YAML that says how visitors are known, and the file it stood in; null where there is none. */
  readonly credentials: { readonly text: string; readonly file: string } | null;
  readonly under: string | undefined;
  readonly visitors: readonly string[] | undefined;
  readonly pause: number;
  readonly timeout: number;
  readonly limit: number;
  /** Where pages are looked for, and how many at most; null where they are not. */
  readonly search: {
    readonly at: string;
    readonly pages: number;
    readonly seconds: number;
  } | null;
}

/** The visits of a run. */
export interface Visited {
  readonly agreed: number;
  readonly differed: number;
  readonly untried: readonly Untried[];
  /** The pages that were visited by someone who may see them. */
  readonly reached: readonly string[];
  readonly differences: readonly FoundDifference[];
}

/** The search for pages that no rule knows. */
export interface Searched {
  readonly pages: number;
  /** Why it ended before its end, or could not be made; null where everything was seen. */
  readonly endedBy: string | null;
  readonly differences: readonly FoundDifference[];
}

/** How far a run is. */
export interface ProbeProgress {
  readonly done: number;
  readonly all: number;
}

/** What the thread of a probe tells. */
export type FromProbe =
  | { readonly is: 'progress'; readonly progress: ProbeProgress }
  | { readonly is: 'visited'; readonly visited: Visited }
  | { readonly is: 'searched'; readonly searched: Searched }
  /** Nothing could be tried. */
  | { readonly is: 'failed'; readonly because: string };
