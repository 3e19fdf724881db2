/** The words that mean something in a condition, and what. */
export const CONDITION_WORDS = {
  anyone: 'Everyone, guests included.',
  nobody: 'No visitor at all.',
  guest: 'Someone who is not signed in.',
  'signed-in': 'Anyone who is signed in.',
  role: 'role NAME: whoever has the role.',
  group: 'group NAME: whoever belongs to the group.',
  person: 'person ID: this person alone.',
  bought: 'bought PRODUCT: buyers of the product, while the purchase is in force.',
  ever: 'ever bought PRODUCT: buyers of the product, also when the purchase has ended.',
  lapsed: 'lapsed PRODUCT: buyers whose purchase has run out, and who have none in force.',
  paused: 'paused PRODUCT: buyers whose purchase is paused, and who have none in force.',
  refunded: 'refunded PRODUCT: buyers who were given their money back, and have none in force.',
  and: 'Both sides must hold; binds closer than "or".',
  or: 'Either side is enough.',
  not: 'The opposite of what follows.',
  in: 'VALUE in [A, B]: the value is one of the list.',
  language: 'The language that the visitor prefers.',
} as const;

/** The signs that compare two values, and what they ask; where a value is several, one that fits is enough. */
export const COMPARISON_SIGNS = {
  '=': 'Both values are the same.',
  '!=': 'The values are not the same; where a value is several, none is.',
  '<': 'The left value is less than, or before, the right one.',
  '<=': 'The left value is at most the right one.',
  '>': 'The left value is greater than, or after, the right one.',
  '>=': 'The left value is at least the right one.',
} as const;

/** Words that can't name an audience, because a condition reads them otherwise. */
export const RESERVED_WORDS: ReadonlySet<string> = new Set(Object.keys(CONDITION_WORDS));
