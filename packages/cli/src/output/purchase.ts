import { Option, type Command } from 'commander';
import type { ReceivedEvent, StandingPurchase } from '@kleidon/client';
import { minuteOf } from './minute.ts';
import { dim, green, red, yellow } from './style.ts';

/** The options that name a buyer. */
export const buyerOptions = (command: Command): Command =>
  command
    .addOption(new Option('--email <address>', 'the address of the buyer'))
    .addOption(new Option('--visitor <id>', "the buyer's id on the website"));

/** The time for which a purchase was paid. */
export function periodOf({ from, until }: Pick<StandingPurchase, 'from' | 'until'>): string {
  const end = until === null ? 'without end' : `until ${minuteOf(until)}`;
  return from === null ? end : `from ${minuteOf(from)} ${end}`;
}

/** How a purchase stands. */
export function stateWords({ state, cancelled }: StandingPurchase): string {
  const renewal = cancelled && state === 'in-force' ? ', not renewed' : '';
  switch (state) {
    case 'in-force':
      return green('in force') + renewal;
    case 'refunded':
      return red('refunded');
    case 'paused':
      return yellow('paused');
    case 'lapsed':
      return dim('lapsed');
    case 'upcoming':
      return 'begins later';
  }
}

/** What an event says. */
export const wordsOf = ({ type, until, partly, note }: ReceivedEvent): string =>
  `${type}${partly ? ', in part' : ''}${until === null ? '' : `, until ${minuteOf(until)}`}${note === null ? '' : `: ${note}`}`;
