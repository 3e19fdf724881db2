import type { ConditionProblem } from '../model/condition-problem.ts';
import { advice, type Advice } from './advice.ts';

/** Why a condition can't be read, in English. */
export function describeConditionProblem(problem: ConditionProblem): Advice {
  switch (problem.code) {
    case 'too-deep':
      return advice(
        `A condition may be nested ${problem.limit} deep.`,
        'Give a part of it a name under audiences.',
      );
    case 'parenthesis-open':
      return advice('A parenthesis is not closed.', 'Add ")".');
    case 'list-open':
      return advice('A list is not closed.', 'Add "]".');
    case 'ever-alone':
      return advice('"ever" stands before "bought".', 'Write "ever bought PRODUCT".');
    case 'list-expected':
      return advice('"in" wants a list on its right.', 'Write [a, b] in brackets.');
    case 'name-expected': {
      const { after, found } = problem;
      return found === null
        ? advice(`"${after}" wants a name after it.`, `Write "${after} NAME".`)
        : advice(
            `"${after}" wants a name after it, and found "${found}".`,
            `Write "${after} NAME ${found} …".`,
          );
    }
    case 'value-alone':
      return advice(
        `A value must be compared with something: "${problem.text}" stands alone.`,
        'Use =, !=, <, <=, >, >= or in.',
      );
    case 'list-compared':
      return advice(
        `"${problem.operator}" compares one value with another, and a list stands beside it.`,
        'Write the value first, and "in" before the list: visitor.town in ["Ayr", "Oban"].',
      );
    case 'not-a-named-value': {
      const { text, meant } = problem;
      return advice(
        `"${text}" is not a value.`,
        meant === null
          ? `Put text in quotes: "${text}". Values are visitor.NAME, path.NAME, query.NAME and language.`
          : `Did you mean "${meant}"?`,
      );
    }
    case 'value-expected':
      return advice('A comparison wants a value after it.', WRITE_A_VALUE);
    case 'not-a-value':
      return advice(`"${problem.text}" is not a value.`, WRITE_A_VALUE);
    case 'surplus':
      return advice(
        `The condition ends before "${problem.text}".`,
        problem.text === ')'
          ? 'Remove it, or open a parenthesis.'
          : /^(?:or|and|not)$/i.test(problem.text)
            ? `Write "${problem.text.toLowerCase()}".`
            : 'Join the two with "and" or "or".',
      );
    case 'ends-too-early':
      return advice('The condition stops too early.', WRITE_A_CONDITION);
    case 'misplaced':
      return advice(`"${problem.text}" can't stand here.`, WRITE_A_CONDITION);
    case 'quote-open':
      return advice('A quoted text is not closed.', `End it with ${problem.quote}.`);
    case 'foreign-character':
      return advice(
        `A condition has no place for "${problem.character}".`,
        problem.word === null ? 'Remove it, or put text in quotes.' : `Write "${problem.word}".`,
      );
  }
}

const WRITE_A_VALUE =
  'Write a number, a date, text in quotes, visitor.NAME, path.NAME or query.NAME.';
const WRITE_A_CONDITION =
  'Write anyone, guest, signed-in, role NAME, group NAME, person NAME, bought PRODUCT, an audience, or a comparison.';
