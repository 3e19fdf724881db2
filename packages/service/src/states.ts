import {
  inspect,
  prepareSite,
  readSite,
  type Finding,
  type PreparedSite,
  type SiteError,
} from '@kleidon/core';

/** What is wrong with a site file, or looks wrong. */
export interface Check {
  readonly errors: readonly SiteError[];
  readonly findings: readonly Finding[];
}

/** A site file that was read: prepared for deciding where it has no errors. */
export interface ReadState {
  readonly prepared: PreparedSite | null;
  readonly errors: readonly SiteError[];
}

/** Reads site files, and keeps the last ones so that asking again about one costs nothing. */
export interface States {
  read(text: string, file: string): ReadState;
  check(text: string, file: string, at: number): Check;
}

const KEPT = 8;

export function keepStates(): States {
  const kept = new Map<string, ReadState>();

  const read = (text: string, file: string): ReadState => {
    const key = `${file}\n${text}`;
    const known = kept.get(key);
    if (known) {
      // Put last, so that the one dropped is the one not asked for longest.
      kept.delete(key);
      kept.set(key, known);
      return known;
    }
    const result = readSite(text, file);
    const state = result.ok
      ? { prepared: prepareSite(result.site), errors: [] }
      : { prepared: null, errors: result.errors };
    kept.set(key, state);
    if (kept.size > KEPT) kept.delete(kept.keys().next().value!);
    return state;
  };

  return {
    read,
    check: (text, file, at) => {
      const { prepared, errors } = read(text, file);
      return { errors, findings: prepared ? inspect(prepared, file, at) : [] };
    },
  };
}
