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
