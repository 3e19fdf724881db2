/** Why a segment of a path is refused: a common server may read another path than the rules did. */
export type SegmentProblem = 'ambiguous-segment' | 'double-escape' | 'stream' | 'look-alike';

/** Why an address is refused. */
export type AddressProblem =
  | 'too-long'
  | 'control-character'
  | 'backslash'
  | 'double-slash'
  | 'no-address'
  | 'malformed'
  | 'malformed-escape'
  | 'encoded-separator'
  | 'credentials'
  | SegmentProblem;
