import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import type { decisions, model } from '@kleidon/core';
import type { Client } from './origin/client.ts';
import type { OpenExchange } from './open-exchanges.ts';
import type { RequestTarget } from './request-target.ts';

/** One request, and the response that it gets. */
export interface Exchange {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly client: Client;
  readonly site: decisions.PreparedSite;
  readonly target: RequestTarget;
  readonly visitor: model.Visitor;
  /** The connection of an opening handshake of a WebSocket; null for every other request. */
  readonly webSocket: Duplex | null;
  /** How it is judged again while it goes on. */
  readonly open: OpenExchange;
}

/** Names and values of the fields that the rules give a response. */
export type Fields = Readonly<Record<string, string>>;

/** Whether a site has parts, or menus that are not the same for everyone. */
export const hasParts = ({ site }: decisions.PreparedSite): boolean =>
  site.parts.length > 0 || site.menus.some(({ onlyUsable }) => onlyUsable);
