import type { ProbeRun } from '@kleidon/client';
import { Moment } from './moment.tsx';
import css from './live.module.css';

/** The last runs of a probe, the newest first. */
export function ProbeRuns({ runs }: { runs: readonly ProbeRun[] }) {
  return (
    <details>
      <summary>Last {runs.length} runs</summary>
      <table className={css.traffic}>
        <thead>
          <tr>
            <th scope="col">Ended</th>
            <th scope="col" className={css.number}>
              Release
            </th>
            <th scope="col" className={css.number}>
              Agree
            </th>
            <th scope="col" className={css.number}>
              Differ
            </th>
            <th scope="col" className={css.number}>
              Pages
            </th>
            <th scope="col">Failure</th>
          </tr>
        </thead>
        <tbody>
          {runs.map(({ number, endedAt, release, agreed, differed, pages, failure }) => (
            <tr key={number}>
              <td>
                <Moment at={endedAt} />
              </td>
              <td className={css.number}>{release}</td>
              <td className={css.number}>{agreed}</td>
              <td className={css.number}>{differed}</td>
              <td className={css.number}>{pages ?? '–'}</td>
              <td>{failure ?? 'none'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
