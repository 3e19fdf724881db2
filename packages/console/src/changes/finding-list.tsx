import { Link } from 'react-router';
import type { model } from '@kleidon/core';
import layout from '../style/layout.module.css';

const SEVERITIES = ['high', 'medium', 'low'];

/** Counts the findings by severity and lists the worst. */
export function FindingList({
  site,
  findings,
  most,
}: {
  site: string;
  findings: readonly model.Finding[];
  /** The length of the list. */
  most: number;
}) {
  const bySeverity = SEVERITIES.map(
    (severity) => [severity, findings.filter((one) => one.severity === severity)] as const,
  ).filter(([, those]) => those.length > 0);
  return (
    <>
      <p>{bySeverity.map(([severity, { length }]) => `${length} ${severity}`).join(', ')}</p>
      <ul className={layout.plain}>
        {bySeverity
          .flatMap(([, those]) => those)
          .slice(0, most)
          .map(({ code, about, severity, line, message }) => (
            <li key={`${code} ${about} ${message}`}>
              <span className={layout.tag}>{severity}</span>{' '}
              <Link to={`/sites/${site}/file?line=${line}`}>{message}</Link>
            </li>
          ))}
      </ul>
    </>
  );
}
