import { flag, number, text } from './schema-kinds.ts';

export const FROM = () => text('moment', 'From');
export const UNTIL = () => text('moment', 'Until', 'the first day after');
export const NOTE = () => text('text', 'Note', 'the reason, for later readers');
export const RANK = () => number('Rank', 'higher goes first');
export const ONLY_WHERE_NO_PAGE = () => flag('no', 'Only where no page is');
