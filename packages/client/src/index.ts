export { addressesIn, addressList, type AddressList, type ListedAddress } from './address-list.ts';
export type * from './api.ts';
export { createClient, ServiceProblem, Unreachable, type Client } from './client.ts';
export { FULL_ACCESS, OUTCOME_WORDS, tally, type OutcomeWords } from './outcomes.ts';
