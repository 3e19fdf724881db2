import type { ServerResponse } from 'node:http';
import { decisions, type model } from '@kleidon/core';
import { RESERVED_PREFIX } from '../sign-in/session-cookie.ts';
import { ownPath } from './own-path.ts';
import { sendOn } from './sign-in-answers.ts';

/** The address to which the website's own login redirects after a sign-in; `return` is the return address. */
export const LANDING = `${RESERVED_PREFIX}landing`;

/** Sends a visitor to where people land after signing in. */
export function sendToLanding(
  response: ServerResponse,
  site: decisions.PreparedSite,
  visitor: model.Visitor,
  address: string,
  now: number,
): void {
  const query = new URLSearchParams(address.split('?')[1] ?? '');
  const from = ownPath(query.get('return'));
  sendOn(response, decisions.landing(site, 'sign-in', visitor, from, now).address, []);
}
