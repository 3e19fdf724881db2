import type { DecisionContext, Ending } from './decision.ts';

type Headers = Readonly<Record<string, string>>;

const NONE: Headers = Object.freeze({});
const LANGUAGE: Headers = Object.freeze({ Vary: 'Accept-Language' });
const PRIVATE: Headers = Object.freeze({ 'Cache-Control': 'private, no-store', Vary: 'Cookie' });
const PRIVATE_LANGUAGE: Headers = Object.freeze({ ...PRIVATE, Vary: 'Accept-Language, Cookie' });
const FOR_SOME: Headers = Object.freeze({ 'Cache-Control': 'private, no-store' });
const FOR_SOME_LANGUAGE: Headers = Object.freeze({ ...FOR_SOME, Vary: 'Accept-Language' });
const MISSING: Headers = Object.freeze({ 'Cache-Control': 'private, no-store' });
/** An hour: a permanent redirect that was wrong must not stay in browsers for ever. */
const HOUR = 3600;
const LASTING: Headers = Object.freeze({ 'Cache-Control': `public, max-age=${HOUR}` });

/** The headers of an answer: one that depends on who is asking is never stored (RFC 9111). */
export function headersOf(context: DecisionContext, ending: Ending): Headers {
  const caching = cachingOf(context, ending);
  return ending.headers ? { ...caching, ...ending.headers } : caching;
}

/** Whether browsers may store a permanent answer: it is the same for everyone. */
export const isKept = ({ readsVisitor, readsLanguage }: DecisionContext): boolean =>
  !readsVisitor && !readsLanguage;

/** A rule that ends soon is kept no longer than that. */
function lastingFor({ at }: DecisionContext, { keepFor = HOUR, until }: Ending): Headers {
  if (keepFor === HOUR && until === undefined) return LASTING;
  const left = until === undefined ? keepFor : Math.floor((until - at) / 1000);
  const seconds = Math.max(0, Math.min(keepFor, left));
  return seconds === HOUR ? LASTING : { 'Cache-Control': `public, max-age=${seconds}` };
}

function cachingOf(context: DecisionContext, ending: Ending): Headers {
  // The same for a page that is hidden as for none: what differs would tell the two apart.
  if (ending.outcome === 'missing') return MISSING;
  if (context.readsVisitor) return context.readsLanguage ? PRIVATE_LANGUAGE : PRIVATE;
  if (ending.forSome) return context.readsLanguage ? FOR_SOME_LANGUAGE : FOR_SOME;
  if (ending.permanent && isKept(context)) return lastingFor(context, ending);
  return context.readsLanguage ? LANGUAGE : NONE;
}
