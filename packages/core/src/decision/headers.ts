import type { Deciding, Ending } from './decision.ts';

type Headers = Readonly<Record<string, string>>;

const NONE: Headers = Object.freeze({});
const LANGUAGE: Headers = Object.freeze({ Vary: 'Accept-Language' });
const PRIVATE: Headers = Object.freeze({ 'Cache-Control': 'private, no-store', Vary: 'Cookie' });
const PRIVATE_LANGUAGE: Headers = Object.freeze({ ...PRIVATE, Vary: 'Accept-Language, Cookie' });
const MISSING: Headers = Object.freeze({ 'Cache-Control': 'private, no-store' });
/** An hour: a permanent redirect that was wrong must not stay in browsers for ever. */
const LASTING: Headers = Object.freeze({ 'Cache-Control': 'public, max-age=3600' });

/** The headers of an answer: one that depends on who is asking is never stored (RFC 9111). */
export function headersOf(on: Deciding, ending: Ending): Headers {
  const caching = cachingOf(on, ending);
  return ending.headers ? { ...caching, ...ending.headers } : caching;
}

function cachingOf(on: Deciding, ending: Ending): Headers {
  // The same for a page that is hidden as for none: what differs would tell the two apart.
  if (ending.outcome === 'missing') return MISSING;
  if (on.readsVisitor) return on.readsLanguage ? PRIVATE_LANGUAGE : PRIVATE;
  if (ending.permanent) return LASTING;
  return on.readsLanguage ? LANGUAGE : NONE;
}
