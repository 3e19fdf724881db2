export { printCondition } from '../condition/print.ts';
export { CONDITION_WORDS } from '../condition/vocabulary.ts';
