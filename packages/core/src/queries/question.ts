import type { PreparedSite } from '../decision/prepared-site.ts';
import type { QuestionProblem } from '../model/question-problem.ts';
import { GUEST, type Visitor } from '../model/visitor.ts';
import { parsePattern } from '../pattern/parse.ts';
import { PatternSyntaxError } from '../pattern/pattern-syntax-error.ts';
import { readVisitor } from '../site/read/read-visitor.ts';
import { readInstant } from '../time/instant.ts';
import { describeQuestionProblem } from '../wording/question-problem.ts';

/** A question about a site that can't be answered; `sentences` tells why. */
export class QuestionError extends Error {
  readonly sentences: readonly string[];

  constructor(readonly problem: QuestionProblem) {
    const sentences = describeQuestionProblem(problem);
    super(sentences.join(' '));
    this.sentences = sentences;
  }
}

/**
 * Reads the moment that a question is about; dates are of the site's time zone.
 *
 * @param text a date or time (ISO 8601)
 * @param now the moment where none is given, in milliseconds since 1970
 * @returns milliseconds since 1970
 * @throws QuestionError
 */
export function readMoment(text: string | undefined, timeZone: string, now: number): number {
  if (text === undefined || text === '') return now;
  const at = readInstant(text, timeZone);
  if (at === null) throw new QuestionError({ code: 'not-a-moment', text });
  return at;
}

/**
 * The visitor whom a question is about: one of the site file, or one made up on the spot.
 *
 * @param who.as the name of a visitor of the site file
 * @param who.visitor a visitor made up, in YAML, JSON or as plain values; goes before `as`
 * @throws QuestionError
 */
export function chooseVisitor(
  prepared: PreparedSite,
  {
    as,
    visitor,
  }: { readonly as?: string | undefined; readonly visitor?: string | object | undefined },
): Visitor {
  if (visitor === undefined) return findVisitor(prepared, as);
  const text = typeof visitor === 'string' ? visitor : JSON.stringify(visitor);
  const read = readVisitor(text, prepared.site);
  if (read.ok) return read.visitor;
  const problems = read.errors.map(({ problem }) => problem);
  throw new QuestionError({ code: 'unreadable-visitor', problems });
}

/**
 * A visitor of the site file.
 *
 * @throws QuestionError
 */
export function findVisitor({ site }: PreparedSite, name: string | undefined): Visitor {
  if (name === undefined) throw new QuestionError({ code: 'nobody-named' });
  const visitor = site.visitors.find((one) => one.name === name);
  if (visitor) return visitor;
  if (name === 'guest') return GUEST;
  const known = site.visitors.map((one) => one.name);
  throw new QuestionError({ code: 'no-such-visitor', name, known });
}

/** Returns the section of a question. Throws `QuestionError` if it is not an address. */
export function readSection<T extends string | undefined>({ site }: PreparedSite, under: T): T {
  if (under === undefined) return under;
  try {
    parsePattern(under, { ignoreCase: site.tidy.case === 'lower' });
    return under;
  } catch (error) {
    if (!(error instanceof PatternSyntaxError)) throw error;
    throw new QuestionError({ code: 'not-a-section', text: under });
  }
}
