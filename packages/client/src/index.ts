export { addressesIn, addressList, type AddressList, type ListedAddress } from './address-list.ts';
export type * from './api.ts';
export { createClient, type Client } from './client.ts';
export {
  COMPARED_KINDS,
  comparedPeople,
  dayIn,
  filteredDifferences,
  GAINS,
  howInWords,
  wasAndIs,
  WHAT_DIFFERS,
  withoutEffect,
  type ComparedPeople,
} from './compared-groups.ts';
export { ServiceProblem, Unreachable } from './errors.ts';
export {
  countPages,
  FULL_ACCESS,
  isLeftToWebsite,
  OUTCOME_WORDS,
  tally,
  WEBSITE_DECIDES,
  type OutcomeWords,
} from './outcomes.ts';
export { differenceInWords, EFFECT_WORDS, intervalInWords } from './probe-words.ts';
