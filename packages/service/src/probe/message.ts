import type { ProbeDifference, ProbeRun, Recorded } from '../store/probes.ts';

/** As many differences as a message names: it is to stay under 20 kB. */
const MOST_NAMED = 20;

/** What a webhook tells of a probe. */
type EventType = 'probe.differs' | 'probe.agrees' | 'probe.failed';

/**
 * What a receiver is told of a run, as Standard Webhooks writes it; null where there is nothing new: when
 * something begins to differ, when nothing differs any more, and when nothing can be tried any more.
 *
 * @param before the run before this one
 */
export function messageOf(
  site: string,
  { run, begun, ended, open }: Recorded,
  before: ProbeRun | null,
): string | null {
  const type = typeOf(run, begun, ended, open, before);
  if (type === null) return null;
  const { number, website, release, failure, endedAt } = run;
  return JSON.stringify({
    type,
    timestamp: endedAt,
    data: {
      site,
      website,
      run: number,
      release,
      failure,
      open,
      begun: begun.length,
      ended: ended.length,
      differences: begun.slice(0, MOST_NAMED).map(named),
    },
  });
}

function typeOf(
  { failure }: ProbeRun,
  begun: readonly ProbeDifference[],
  ended: readonly ProbeDifference[],
  open: number,
  before: ProbeRun | null,
): EventType | null {
  if (begun.length > 0) return 'probe.differs';
  if (failure !== null) return before?.failure == null ? 'probe.failed' : null;
  const isOver = ended.length > 0 || (before !== null && before.failure !== null);
  return isOver && open === 0 ? 'probe.agrees' : null;
}

const named = ({ kind, address, visitor, step, expected, found, effect }: ProbeDifference) => ({
  kind,
  address,
  visitor: visitor || null,
  step,
  expected,
  found,
  effect,
});
