import { MAX_ADDRESS_LENGTH } from '../address/address.ts';
import type { AddressProblem } from '../model/address-problem.ts';

/** Why an address is refused, in a sentence. */
export const ADDRESS_PROBLEMS: Readonly<Record<AddressProblem, string>> = {
  'too-long': `The address is longer than ${MAX_ADDRESS_LENGTH} characters.`,
  'control-character': 'The address holds a control character.',
  backslash: 'The address holds a backslash, which some read as a slash.',
  'double-slash': 'The address begins with two slashes: it can be read as a path or as a host.',
  'no-address': 'An address begins with / or with https://.',
  malformed: 'The address is not a URL.',
  'malformed-escape': 'The address holds an escape that is malformed or not UTF-8.',
  'encoded-separator':
    'The address holds an encoded slash, backslash or control character, which is ambiguous.',
  credentials: 'The address holds a user name or password.',
  'ambiguous-segment':
    'A segment holds ";", an encoded "?" or "#", or ends with a dot or a space: some servers read it as another path.',
  'double-escape': 'The address holds an escaped escape, which some servers decode twice.',
  stream: 'A segment holds ":$", which some servers read as another name of a file.',
  'look-alike':
    'Some servers read a character of the address as another one, and so the address as one with other rules.',
};
