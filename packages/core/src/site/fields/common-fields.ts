import { flag, number, text } from './schema-kinds.ts';

/** From when a rule or a purchase is in force. */
export const FROM = () => text('moment', 'From');
/** Until when a rule or a purchase is in force. */
export const UNTIL = () => text('moment', 'Until', 'the first day after');
/** Why something is as it is. */
export const NOTE = () => text('text', 'Note', 'the reason, for later readers');
/** Which of two rules goes first. */
export const RANK = () => number('Rank', 'higher goes first');
/** A rule gives way to pages. */
export const ONLY_WHERE_NO_PAGE = () => flag('no', 'Only where no page is');

/** What the status codes of redirects are (RFC 9110, 15.4). */
export const REDIRECT_KINDS = {
  301: 'permanent',
  302: 'temporary',
  303: 'temporary',
  307: 'temporary',
  308: 'permanent',
} as const;
