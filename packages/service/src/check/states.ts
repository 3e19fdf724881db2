import { decisions, type model, queries, siteFiles } from '@kleidon/core';
import type { Checker } from './checker.ts';
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

/** Reads site files, and keeps the last ones so that asking again about one costs nothing. */
export interface States {
  read(source: Source, file: string): ReadState;
  /**
   * What is wrong with a site file, or looks wrong: looked for by the checker, for it may take seconds in which no
   * visitor would be answered.
   *
   * @returns null where the check was given up
   */
  check(source: Source, file: string, at: number): Promise<Check | null>;
  /** Keeps what was found in a site file that was checked elsewhere, at this moment. */
  keep(source: Source, file: string, at: number, found: Found): void;
}

/** What looks wrong in a site file without errors. */
export type Found = Omit<Check, 'errors'>;

/** Findings change with the dates of a site; those of the same minute are kept. */
const MINUTE = 60_000;

export function keepStates(checker: Pick<Checker, 'check'>): States {
  const cache = new Map<string, ReadState>();
  const found = new Map<string, { minute: number; all: Found }>();
  /** What is looked for at this moment: several ask at once where a page of the console is opened. */
  const underWay = new Map<string, Promise<Found | null>>();

  const read = (source: Source, file: string): ReadState => {
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

  const keep: States['keep'] = (source, file, at, all) =>
    keepLast(found, keyOf(source, file), { minute: Math.floor(at / MINUTE), all: foundIn(all) });

  const find = async (source: Source, file: string, at: number): Promise<Found | null> => {
    const { text, hashes, textOf } = source;
    const lists = [...hashes].map(([name, hash]) => [name, textOf(hash)] as const);
    const all = await checker.check({ text, patch: [], before: null, lists, file, at });
    if (!all || 'operation' in all) return null;
    keep(source, file, at, all);
    return foundIn(all);
  };

  return {
    read,
    keep,
    check: async (source, file, at) => {
      const { prepared, errors } = read(source, file);
      if (!prepared) return { errors, findings: [], guarantees: [], visits: [] };
      const [key, minute] = [keyOf(source, file), Math.floor(at / MINUTE)];
      const known = found.get(key);
      if (known?.minute === minute) return { errors, ...known.all };
      const asked = `${minute} ${key}`;
      let looked = underWay.get(asked);
      if (!looked) {
        looked = find(source, file, at).finally(() => underWay.delete(asked));
        underWay.set(asked, looked);
      }
      const all = await looked;
      return all && { errors, ...all };
    },
  };
}

/** What was found of what a check tells. */
const foundIn = ({ findings, guarantees, visits }: Found): Found => ({
  findings,
  guarantees,
  visits,
});

/** Each question asks for it: the text, of megabytes at times, is taken as it is, behind what can't be a part of it. */
const keyOf = ({ text, hashes }: Source, file: string): string =>
  [file, hashes.size, ...[...hashes].flat(), text].join('\0');
