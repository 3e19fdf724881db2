import type { StandingPurchase } from '@kleidon/client';
import { Moment } from '../live/moment.tsx';
import live from '../live/live.module.css';
import { STATES } from './state-words.ts';

/** How a purchase stands. */
export function StateTag({ state, cancelled }: Pick<StandingPurchase, 'state' | 'cancelled'>) {
  const [sign, word] = STATES[state];
  return (
    <span className={state === 'in-force' ? live.up : state === 'refunded' ? live.down : undefined}>
      <span aria-hidden>{sign}</span> {word}
      {cancelled && state === 'in-force' && ', not renewed'}
    </span>
  );
}

/** The time for which a purchase was paid. */
export function Period({ from, until }: Pick<StandingPurchase, 'from' | 'until'>) {
  return (
    <>
      {from !== null && (
        <>
          from <Moment at={from} />{' '}
        </>
      )}
      {until === null ? (
        'without end'
      ) : (
        <>
          until <Moment at={until} />
        </>
      )}
    </>
  );
}
