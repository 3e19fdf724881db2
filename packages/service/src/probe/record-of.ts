import type { ProbeSettings } from '../settings/probes.ts';
import type { Findings, FoundDifference, ProbeRun } from '../store/probes.ts';
import type { ProbeResult } from './run-probe.ts';

/** What a run found, as it is recorded, and which differences it has shown to be over. */
export function recordOf(
  { pages }: Pick<ProbeSettings, 'pages'>,
  { visited, searched, failure }: ProbeResult,
  about: Pick<ProbeRun, 'website' | 'release'> & {
    readonly startedAt: Date;
    readonly endedAt: Date;
  },
): Findings {
  const untried = new Set(visited?.untried.map(({ visitor }) => visitor));
  const reached = new Set(visited?.reached);
  const isSettled = ({
    kind,
    address,
    visitor,
  }: Pick<FoundDifference, 'kind' | 'address' | 'visitor'>): boolean => {
    switch (kind) {
      case 'visit':
        return visited !== null && !untried.has(visitor);
      case 'absent-page':
        return visited !== null && (untried.size === 0 || reached.has(address));
      case 'undeclared-page':
        return pages === 0 || searched?.endedBy === null;
    }
  };
  return {
    run: {
      website: about.website,
      release: about.release,
      agreed: visited?.agreed ?? 0,
      differed: visited?.differed ?? 0,
      untried: visited?.untried ?? [],
      pages: searched?.pages ?? null,
      endedBy: searched?.endedBy ?? null,
      failure,
      startedAt: about.startedAt.toISOString(),
      endedAt: about.endedAt.toISOString(),
    },
    differences: [...(visited?.differences ?? []), ...(searched?.differences ?? [])],
    isSettled,
  };
}
