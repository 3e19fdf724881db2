/** How often two works take turns: what disturbs the machine for a while disturbs both. */
const ROUNDS = 9;

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

function timed(work) {
  const begin = performance.now();
  work();
  return performance.now() - begin;
}

/**
 * Lets a work and its reference take turns.
 *
 * @param work what is measured
 * @param reference what it is measured beside
 * @returns the medians in milliseconds, and the median of the ratios of each round
 */
export function beside(work, reference) {
  const rounds = Array.from({ length: ROUNDS }, () => [timed(work), timed(reference)]);
  return {
    work: median(rounds.map(([own]) => own)),
    reference: median(rounds.map(([, other]) => other)),
    ratio: median(rounds.map(([own, other]) => own / other)),
  };
}

/** A row of a table of results. */
export const row = ({ work, reference, ratio }) => ({
  ms: Math.round(work),
  'the reference (ms)': Math.round(reference),
  ratio: `${ratio.toFixed(2)} x`,
});
