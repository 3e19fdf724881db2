import type { Message } from '@kleidon/api';
import { decisions, queries } from '@kleidon/core';
import type { Source } from './states.ts';
import { draftOf, fileOf, preparedFrom, sourceOf, type Analysis } from './source.ts';
import type { Analyses } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';

/** More than these nobody reads; the changes tell how many there are. */
const MOST_DIFFERENCES = 5_000;

const MINUTE = 60_000;

/** How two states of a site differ, for every visitor there could be. */
export function comparison(context: Analysis): Analyses {
  const compare = keepLast();

  return {
    compare: ({ path, body: { before, after, at } }) => {
      const { site } = draftOf(context, path.site);
      const [was, is] = [before, after].map((one) =>
        preparedFrom(context, stateOf(context, site, one), fileOf(site)),
      ) as [decisions.PreparedSite, decisions.PreparedSite];
      const now = Math.floor(context.now() / MINUTE) * MINUTE;
      const moment = queries.readMoment(at, is.site.timeZone, now);
      const { differences, ...comparison } = compare(was, is, moment);
      return {
        ...comparison,
        total: differences.length,
        differences: differences.slice(0, MOST_DIFFERENCES),
      };
    },
  };
}

/** A state of the site that is named, or a site file that was sent. */
function stateOf(
  context: Analysis,
  site: string,
  { state, text, lists = {} }: Message<'StateToCompare'>,
): Source {
  if ((state === undefined) === (text === undefined))
    throw new Problem(
      'wrong-request',
      'Name a "state" of the site, or send the "text" of a site file.',
    );
  if (text === undefined) return sourceOf(context, site, state);
  return {
    text,
    hashes: new Map(Object.entries(lists)),
    textOf: (list) => list,
  };
}

/** Compares two states; the last answer is kept, as a page asks for it again and again. */
function keepLast(): typeof queries.compareSites {
  let last: { key: readonly unknown[]; answer: queries.Comparison } | null = null;
  return (...key) => {
    if (!last?.key.every((one, i) => one === key[i]))
      last = { key, answer: queries.compareSites(...key) };
    return last.answer;
  };
}
