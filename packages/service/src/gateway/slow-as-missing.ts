import { decisions } from '@kleidon/core';
import { readable, type OriginFields } from './origin-fields.ts';
import type { Exchange } from './exchange.ts';
import type { Origin } from './origin/origin.ts';

/**
 * Asks the website what it would be asked where nothing is, if it would be asked there at all: how long a
 * response takes must not tell what is hidden from what is not there.
 */
export async function takeAsLongAsMissing(
  exchange: Exchange,
  website: Origin,
  fieldsFor: OriginFields,
  now: number,
): Promise<void> {
  const { response, client, site, target, visitor } = exchange;
  const { method } = target;
  const path = decisions.websiteAddress(site, target.address);
  if (path === null || !decisions.isView(method)) return;
  const address = madeUpBeside(path);
  const decision = decisions.decide(site, { ...target, address }, visitor, now);
  if (decision.outcome !== 'reach' || decision.served !== null) return;
  const fields = readable(await fieldsFor(exchange, site.site.host, true), site);
  const request = { method, path: address, fields, body: null };
  await website
    .ask({ ...request, waits: response, client: client.address }, () => null)
    .catch(() => null);
}

/** An address in the same section that nothing has. */
function madeUpBeside(path: string): string {
  const [before = '/'] = path.split('?');
  const section = before.slice(0, before.lastIndexOf('/', before.length - 2) + 1) || '/';
  const name = Array.from({ length: 3 }, () => Math.random().toString(36).slice(2, 8)).join('');
  return `${section}${name}`;
}
