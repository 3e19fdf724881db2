import type { Closure } from '../model/closure.ts';
import { printDay } from '../time/instant.ts';

/** Why nobody reaches a page at the moment, in English. */
export function describeClosure(closure: Closure, timeZone: string): string {
  switch (closure.code) {
    case 'opens-later':
      return `It opens on ${printDay(closure.at, timeZone)}.`;
    case 'ended':
      return `It closed on ${printDay(closure.at, timeZone)}.`;
    case 'redirected':
      return `A redirect sends everyone to ${closure.to}.`;
  }
}
