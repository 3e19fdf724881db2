import { withFinalSlash } from '../address/tidy.ts';
import type { Address } from '../address/address.ts';
import type { DecisionContext } from './decision.ts';

/** The path of the primary address, spelled as the site spells its addresses. */
export const tidyPath = (
  { prepared: { site } }: DecisionContext,
  { path, requestedPath }: Address,
  primary: string | undefined,
): string => withFinalSlash(primary ?? path, primary ?? requestedPath, site.tidy);
