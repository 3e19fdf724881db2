import { decisions, type model, queries, siteFiles } from '@kleidon/core';
import { keepLast } from './keep-last.ts';

/** What is wrong with a site file, or looks wrong. */
export interface Check {
  readonly errors: readonly queries.ExplainedError[];
  readonly findings: readonly model.Finding[];
  /** Proofs and witnesses; none where there are errors. */
  readonly guarantees: readonly queries.ListedGuarantee[];
  /** The expected visits, as they end. */
  readonly visits: readonly queries.MadeVisit[];
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

/** Reads and checks site files, and keeps the last ones so that asking again about one costs nothing. */
export interface States {
  read(source: Source, file: string): ReadState;
  check(source: Source, file: string, at: number): Check;
}

/** What looks wrong in a site file without errors. */
type Found = Omit<Check, 'errors'>;

const NOTHING: Found = { findings: [], guarantees: [], visits: [] };

/** Findings change with the dates of a site; those of the same minute are kept. */
const MINUTE = 60_000;

export function keepStates(): States {
  const cache = new Map<string, ReadState>();
  const found = new Map<string, { minute: number; all: Found }>();

  const read: States['read'] = (source, file) => {
    const { text, hashes, textOf } = source;
    const key = keyOf(source, file);
    const known = cache.get(key);
    if (known) {
      keepLast(cache, key, known);
      return known;
    }
    const result = siteFiles.readSite(text, file, (name) => {
      const hash = hashes.get(name);
      return hash === undefined ? null : textOf(hash);
    });
    const state = result.ok
      ? { prepared: decisions.prepareSite(result.site), errors: [] }
      : { prepared: null, errors: queries.explainErrors(result.errors) };
    keepLast(cache, key, state);
    return state;
  };

  return {
    read,
    check: (source, file, at) => {
      const { prepared, errors } = read(source, file);
      if (!prepared) return { errors, ...NOTHING };
      const [key, minute] = [keyOf(source, file), Math.floor(at / MINUTE)];
      const known = found.get(key);
      if (known?.minute === minute) return { errors, ...known.all };
      const all: Found = {
        findings: queries.inspect(prepared, file, at),
        guarantees: queries.guaranteeList(prepared, at),
        visits: queries.expectedVisits(prepared, at),
      };
      keepLast(found, key, { minute, all });
      return { errors, ...all };
    },
  };
}

/** Each question asks for it: the text, of megabytes at times, is taken as it is, behind what can't be a part of it. */
const keyOf = ({ text, hashes }: Source, file: string): string =>
  [file, hashes.size, ...[...hashes].flat(), text].join('\0');
