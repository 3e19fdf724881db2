import { decisions, type model, queries, siteFiles } from '@kleidon/core';

/** What is wrong with a site file, or looks wrong. */
export interface Check {
  readonly errors: readonly queries.ExplainedError[];
  readonly findings: readonly model.Finding[];
}

/** A site file with the lists beside it. */
export interface Source {
  readonly text: string;
  /** The hash of each list by its name: two sources with the same text and hashes are the same. */
  readonly hashes: ReadonlyMap<string, string>;
  readonly textOf: (hash: string) => string;
}

/** A site file that has no lists beside it. */
export const alone = (text: string): Source => ({ text, hashes: new Map(), textOf: () => '' });

/** A site file that was read: prepared for deciding where it has no errors. */
export interface ReadState {
  readonly prepared: decisions.PreparedSite | null;
  readonly errors: readonly queries.ExplainedError[];
}

/** Reads site files, and keeps the last ones so that asking again about one costs nothing. */
export interface States {
  read(source: Source, file: string): ReadState;
  check(source: Source, file: string, at: number): Check;
}

const KEPT = 8;
/** Findings change with the dates of a site; those of the same minute are kept. */
const MINUTE = 60_000;

export function keepStates(): States {
  const cache = new Map<string, ReadState>();
  const found = new WeakMap<
    decisions.PreparedSite,
    { minute: number; findings: readonly model.Finding[] }
  >();

  const read = ({ text, hashes, textOf }: Source, file: string): ReadState => {
    const key = JSON.stringify([file, ...[...hashes].flat(), text]);
    const known = cache.get(key);
    if (known) {
      // Put last, so that the one dropped is the one not asked for longest.
      cache.delete(key);
      cache.set(key, known);
      return known;
    }
    const result = siteFiles.readSite(text, file, (name) => {
      const hash = hashes.get(name);
      return hash === undefined ? null : textOf(hash);
    });
    const state = result.ok
      ? { prepared: decisions.prepareSite(result.site), errors: [] }
      : { prepared: null, errors: queries.explainErrors(result.errors) };
    cache.set(key, state);
    if (cache.size > KEPT) cache.delete(cache.keys().next().value!);
    return state;
  };

  const findingsOf = (
    prepared: decisions.PreparedSite,
    file: string,
    at: number,
  ): readonly model.Finding[] => {
    const minute = Math.floor(at / MINUTE);
    const known = found.get(prepared);
    if (known?.minute === minute) return known.findings;
    const findings = queries.inspect(prepared, file, at);
    found.set(prepared, { minute, findings });
    return findings;
  };

  return {
    read,
    check: (source, file, at) => {
      const { prepared, errors } = read(source, file);
      return { errors, findings: prepared ? findingsOf(prepared, file, at) : [] };
    },
  };
}
