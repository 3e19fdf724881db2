import type { InversionProblem, PatternProblem } from '../model/pattern-problem.ts';
import { advice, type Advice } from './advice.ts';

/** Why a pattern or a target can't be read, in English. */
export function describePatternProblem(problem: PatternProblem): Advice {
  switch (problem.code) {
    case 'backslash-at-end':
      return advice('A backslash ends the pattern.', 'Write \\\\ for a backslash.');
    case 'name-expected':
      return advice('A colon wants a name after it.', 'Write \\: for a colon.');
    case 'group-begins-with-question-mark':
      return advice('A custom group can\'t begin with "?".', 'Write \\? for a question mark.');
    case 'group-not-ascii':
      return advice(
        `A custom group takes ASCII only, and found "${problem.character}".`,
        'Percent-encode it.',
      );
    case 'group-captures':
      return advice(
        "A custom group can't capture inside itself.",
        'Write (?: for the inner group.',
      );
    case 'group-open':
      return advice('A custom group is not closed.', 'Add ")".');
    case 'group-empty':
      return advice('A custom group is empty.', 'Write a regular expression in it.');
    case 'malformed-escape':
      return advice(`"${problem.text}" holds a malformed escape.`, 'Write % as %25.');
    case 'malformed-escape-in-group':
      return advice(
        `A custom group holds the malformed escape "${problem.text}".`,
        'Write % as %25.',
      );
    case 'name-twice':
      return advice(
        `":${problem.name}" stands twice in this pattern.`,
        'Give one of the two another name.',
      );
    case 'brace-open':
      return advice('A brace is not closed, or holds more than one group.', 'Add "}".');
    case 'nothing-optional':
      return advice(
        '"?" says that what stands before it may be left out, and there is no group before it.',
        'Write \\? for a question mark, or { } around what may be left out. A query is no part of a pattern.',
      );
    case 'misplaced':
      return advice(
        `"${problem.character}" can't stand here.`,
        `Write \\${problem.character} for the character itself.`,
      );
    case 'back-reference':
      return advice(
        "A custom group with a back reference can't be matched in time linear in the address.",
        'Spell out what may stand there.',
      );
    case 'lookaround':
      return advice(
        "A custom group that looks ahead or behind can't be matched in time linear in the address.",
        'Write two patterns, or a condition.',
      );
    case 'flags-in-group':
      return advice('A custom group takes no flags or names inside.', 'Write (?: instead.');
    case 'combined-classes':
      return advice(
        "Character classes can't be combined in a custom group.",
        'List the characters in one class.',
      );
    case 'not-linear':
      return advice(
        `"${problem.source}" is no regular expression that runs in linear time: ${problem.detail}.`,
        'Use the syntax that JavaScript and RE2 share.',
      );
    case 'group-asks-for-dropped':
      return advice(
        `A custom group asks for "${problem.dropped}", which every address of this site comes without.`,
        'Leave it out of the group.',
      );
    case 'dot-segment':
      return advice(
        'A pattern with a dot segment matches no request: they are removed from every address.',
        'Write the address that is meant, without "." and "..".',
      );
    case 'other-form':
      return advice(
        `This pattern asks for ${problem.written}, and a request for it is matched as ${problem.matched}.`,
        'Write each slash with the part behind it, as in "{/part}?", and leave out endings and index names.',
      );
    case 'unreachable':
      return advice(
        `No request can have the address ${problem.address}: it is refused as ambiguous.`,
        'Write another address, or list the character in "allow" under "tidy" of the site.',
      );
    case 'not-an-address':
      return advice(`"${problem.text}" is no address.`, 'Begin it with / or with https://.');
    case 'two-slashes':
      return advice(
        'An address that begins with two slashes can be read as a host.',
        'Write https:// before a host, or one slash.',
      );
  }
}

/** Why a rewrite has no inverse, as the end of a sentence. */
export function describeInversionProblem(problem: InversionProblem): string {
  switch (problem.code) {
    case 'other-server':
      return 'it is served by another server';
    case 'field-without-value':
      return 'the query has a field without a value';
    case 'optional-part':
      return 'a part of it may be left out or repeated';
    case 'piece-not-alone':
      return 'a piece of the query must stand alone as the value of a field';
    case 'piece-lost':
      return `"serve" says nothing of ${problem.piece}`;
    case 'wide-piece-in-query':
      return `${problem.piece} can hold several steps, and stands in the query`;
    case 'several-wide-pieces':
      return 'more than one piece can hold several steps';
    case 'touching-pieces':
      return 'no slash stands between two pieces, so that it is not plain which has what';
  }
}
