export { describeCsvProblem } from '../wording/csv-problem.ts';
export { sayEdit } from '../wording/edit.ts';
export { summarize } from '../wording/visitor-summary.ts';
export { didYouMean } from '../wording/suggestion.ts';
export { inWords } from '../text/list.ts';
export { describeRowProblem } from '../wording/row-problem.ts';
