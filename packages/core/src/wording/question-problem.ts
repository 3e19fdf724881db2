import type { QuestionProblem } from '../model/question-problem.ts';
import { describeSiteProblem } from './site-problem.ts';

/** Why a question about a site can't be answered, in English: a sentence for each thing that is wrong. */
export function describeQuestionProblem(problem: QuestionProblem): string[] {
  switch (problem.code) {
    case 'not-a-moment':
      return [
        `"${problem.text}" is no date. Write it as 2027-03-01, 2027-03-01T09:30 or 2027-03-01T12:00:00Z.`,
      ];
    case 'not-a-section':
      return [`"${problem.text}" is no address of a section. Write one such as /crew.`];
    case 'nobody-named':
      return ['Say who visits: "as" or "visitor" is missing.'];
    case 'too-many-cases':
      return [
        'The conditions here, or the patterns within this page, have more distinct cases than can be told apart. Ask about one address, or write them shorter.',
      ];
    case 'no-such-visitor':
      return [
        `No visitor is called "${problem.name}". Known: ${problem.known.join(', ') || 'none'}.`,
      ];
    case 'unreadable-visitor':
      return problem.problems.map((one) => {
        const { message, remedy } = describeSiteProblem(one);
        return `${message} ${remedy}`;
      });
  }
}
