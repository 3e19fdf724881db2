/** How a visit ends. */
export const OUTCOMES = [
  'reach',
  'sign-in',
  'block',
  'missing',
  'away',
  'loop',
  'invalid',
] as const;
export type Outcome = (typeof OUTCOMES)[number];
