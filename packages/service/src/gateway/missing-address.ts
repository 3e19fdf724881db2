import { createHmac, randomBytes } from 'node:crypto';
import { decisions, type model } from '@kleidon/core';
import type { RequestTarget } from './request-target.ts';

/** An address where nothing is, which the website is asked for in place of a hidden one. */
export interface MissingAddress {
  /** The address as the website is asked for it: a path, with the query of the request. */
  readonly path: string;
  readonly url: null;
  readonly decision: decisions.Decision;
  /** Returns the fields of a response with the address that was requested in place of this one. */
  restore(fields: readonly string[]): readonly string[];
}

/** A different one in each process, so that nobody can ask for an address that stands in for a hidden one. */
const KEY = randomBytes(32);
/** Shorter names could be those of pages. */
const MIN_NAME_LENGTH = 8;
/** How many of the last segments are tried before all of them are replaced. */
const MAX_TRIES = 4;

/**
 * Returns an address in the same section that no page has and that the visitor may ask the website for: its response
 * to it is the one that a missing address gets, whatever the method, the fields, the load or the state of the website.
 * A visitor never reaches more by it than by an address that they make up.
 *
 * @returns null where the website is asked for no missing address: then every missing address is answered at once
 */
export function missingAddress(
  site: decisions.PreparedSite,
  target: RequestTarget,
  visitor: model.Visitor,
  now: number,
): MissingAddress | null {
  const hidden = decisions.websiteAddress(site, target.address);
  if (hidden === null) return null;
  const [hiddenPath = '/', query] = hidden.split(/\?(.*)/s, 2);
  const segments = hiddenPath.split('/').slice(1);
  const tries = Math.min(segments.length, MAX_TRIES);
  for (let i = 1; i <= tries; i++) {
    const kept = i === tries ? 0 : segments.length - i;
    const path = [
      '',
      ...segments.map((one, at) => (at < kept ? one : nameFor(one, hiddenPath, at))),
    ].join('/');
    const address = query === undefined ? path : `${path}?${query}`;
    const decision = decisions.decide(site, { ...target, address }, visitor, now);
    if (decision.outcome !== 'reach' || decision.served !== null) continue;
    return {
      path: address,
      url: null,
      decision,
      restore: (fields) => fields.map((one) => one.replaceAll(path, hiddenPath)),
    };
  }
  return null;
}

/** A name of the same length and ending for a segment; the same for the same address. */
function nameFor(segment: string, path: string, at: number): string {
  if (segment === '') return '';
  const ending = /\.[a-z\d]{1,5}$/i.exec(segment)?.[0] ?? '';
  const length = Math.max(segment.length - ending.length, MIN_NAME_LENGTH);
  const name = createHmac('sha256', KEY).update(`${at} ${path}`).digest('hex');
  return name.repeat(Math.ceil(length / name.length)).slice(0, length) + ending;
}
