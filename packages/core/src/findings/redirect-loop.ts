import type { Found, Inspected } from './finding-draft.ts';
import { redirectSamples } from './redirect-samples.ts';

/** A redirect leads back to where it came from, at once or after others: browsers give up. */
export function redirectLoop(inspected: Inspected): Found[] {
  return redirectSamples(inspected)
    .filter(({ outcome }) => outcome === 'loop')
    .map(({ redirect, address, met, final }) => ({
      code: 'redirect-loop',
      severity: 'high',
      about: `redirect ${redirect.name}`,
      place: redirect.place,
      message: `Whoever asks for ${address} goes round and round: ${[...met, final].join(' → ')}.`,
      remedy: 'Let it lead to a page, or remove one of the redirects.',
    }));
}
