export { printCondition } from '../condition/print.ts';
export { COMPARISON_SIGNS, CONDITION_WORDS } from '../condition/vocabulary.ts';
