import type { RowProblem } from '../model/row-problem.ts';
import { inWords } from '../text/list.ts';
import { describeCsvProblem } from './csv-problem.ts';
import { describeSiteProblem } from './site-problem.ts';

/** Why something can't be taken over, in English. */
export function describeRowProblem(problem: RowProblem): string {
  switch (problem.code) {
    case 'csv': {
      const { message, remedy } = describeCsvProblem(problem.problem);
      return remedy === null ? message : `${message} ${remedy}`;
    }
    case 'invalid': {
      const { message, remedy } = describeSiteProblem(problem.problem);
      return `${message} ${remedy}`;
    }
    case 'no-address':
      return 'It has no address.';
    case 'no-name':
      return 'It has no name.';
    case 'not-a-page-address':
      return 'It is no address of a page.';
    case 'tidied':
      return 'Tidying already does this: both are one address on this site.';
    case 'menu-link':
      return `The menu "${problem.menu}" is proposed without this link: it is no address that a site can have.`;
    case 'row-twice':
      return `It stands on line ${problem.line} already.`;
    case 'conflicting-rows':
      return `Line ${inWords(problem.lines.map(String))} leads from the same address to another one: keep one of them.`;
    case 'cell-missing':
      return `Its cell ${problem.column} is empty.`;
    case 'no-buyer-name':
      return `Its cell ${problem.column} is ${JSON.stringify(problem.cell.slice(0, 100))}: write at most 320 characters, without control characters and without spaces around them.`;
    case 'no-moment':
      return `Its cell ${problem.column} is "${problem.cell}": write a date such as 2027-03-01, or 2027-03-01T09:00:00Z.`;
    case 'not-one-of':
      return `It says "${problem.cell}": write one of ${inWords(problem.values, 'or')}.`;
  }
}
