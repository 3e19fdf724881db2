import type { VisitEnd } from '../visit/visit.ts';

/** In what two visits differ that end alike at first sight. */
export type WhatDiffers = 'end' | 'way' | 'status' | 'content' | 'source' | 'wait' | 'caching';

/** The first thing in which they differ, as it was and as it is. */
export interface HowDiffers {
  readonly what: WhatDiffers;
  readonly before: string;
  readonly after: string;
}

/**
 * Tells in what two visits differ whose outcome and status are the same; null where these differ, or nothing
 * does.
 */
export function howDiffers(before: VisitEnd, after: VisitEnd): HowDiffers | null {
  if (before.outcome !== after.outcome || before.status !== after.status) return null;
  for (const [what, textOf] of READINGS) {
    const [was, is] = [textOf(before), textOf(after)];
    if (was !== is) return { what, before: was, after: is };
  }
  return null;
}

/** From what matters most to a visitor to what does least. */
const READINGS: readonly (readonly [WhatDiffers, (end: VisitEnd) => string])[] = [
  ['end', ({ final }) => final],
  ['way', ({ hops }) => hops.map(({ address }) => address).join(' → ')],
  ['status', ({ hops }) => hops.map(({ decision: { status } }) => String(status)).join(', ')],
  ['content', ({ hops }) => JSON.stringify(hops.at(-1)?.decision.content ?? null)],
  ['source', ({ hops }) => hops.at(-1)?.decision.served ?? ''],
  ['wait', ({ hops }) => fieldsOf(hops, 'Refresh')],
  ['caching', ({ hops }) => fieldsOf(hops, 'Cache-Control')],
];

function fieldsOf(hops: VisitEnd['hops'], field: string): string {
  return hops
    .filter(({ decision }) => decision.location !== null)
    .map(({ decision: { headers } }) => headers[field] ?? 'nothing said')
    .join(', ');
}
