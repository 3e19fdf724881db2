import type { StandingPurchase } from '@kleidon/client';

type State = StandingPurchase['state'];

/** How a purchase stands: a sign beside the word, so that colour is never the only signal. */
export const STATES: Readonly<Record<State, readonly [sign: string, word: string]>> = {
  'in-force': ['✓', 'in force'],
  lapsed: ['–', 'lapsed'],
  paused: ['‖', 'paused'],
  refunded: ['×', 'refunded'],
  upcoming: ['…', 'begins later'],
};

/** What happened to a purchase, in words; other types are told by their names. */
export const EVENTS: Readonly<Record<string, string>> = {
  'purchase.made': 'bought',
  'purchase.renewed': 'renewed',
  'purchase.cancelled': 'not renewed any more',
  'purchase.paused': 'paused',
  'purchase.resumed': 'resumed',
  'purchase.refunded': 'refunded',
  'purchase.charged-back': 'charged back',
  'purchase.changed': 'changed to another product',
  'buyer.moved': 'has another e-mail address',
  'buyer.linked': 'a second e-mail address was linked',
  'buyer.unlinked': 'the link to another e-mail address ended',
  'buyer.erased': 'a name was erased',
};
