import { clsx } from 'clsx';
import { Alert, Button, Spin } from 'antd';
import { Link } from 'react-router';
import { ServiceProblem, Unreachable } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import layout from '../style/layout.module.css';

export function Waiting({ what }: { what: string }) {
  return (
    <div className={layout.notice} role="status">
      <Spin size="small" /> Loading {what} …
    </div>
  );
}

export function Nothing() {
  return (
    <div className={layout.notice}>
      <h1>There is nothing at this address</h1>
      <p>
        <Link to="/">Go to the reach grid</Link>
      </p>
    </div>
  );
}

/** Says what went wrong and what to do about it. */
export function Failure({
  error,
  retry,
  site,
}: {
  error: Error;
  retry?: () => void;
  site?: string;
}) {
  if (error instanceof ServiceProblem && error.code === 'site-has-errors' && site !== undefined) {
    return (
      <SiteErrors
        errors={(error.problem.errors ?? []) as unknown as queries.ExplainedError[]}
        site={site}
      />
    );
  }
  const remedy =
    error instanceof ServiceProblem
      ? error.problem.remedy
      : error instanceof Unreachable
        ? 'Is it still running? What you typed is kept; try again when it is back.'
        : undefined;
  return (
    <Alert
      className={clsx(layout.notice)}
      type="error"
      showIcon
      title={error.message}
      description={remedy}
      action={retry && <Button onClick={retry}>Try again</Button>}
    />
  );
}

function SiteErrors({ errors, site }: { errors: readonly queries.ExplainedError[]; site: string }) {
  return (
    <Alert
      className={clsx(layout.notice)}
      type="error"
      showIcon
      title={`The site file has ${errors.length} error${errors.length === 1 ? '' : 's'}, so that nothing can be decided yet.`}
      description={<ErrorLines errors={errors} site={site} />}
    />
  );
}

/** Errors of a site file, each with its line. */
export function ErrorLines({
  errors,
  site,
}: {
  errors: readonly Pick<queries.ExplainedError, 'line' | 'column' | 'message' | 'remedy'>[];
  site: string;
}) {
  return (
    <ul className={layout.plain}>
      {errors.map(({ line, column, message, remedy }) => (
        <li key={`${line}:${column}:${message}`}>
          <Link to={`/sites/${site}/file?line=${line}`}>Line {line}</Link>: {message} {remedy}
        </li>
      ))}
    </ul>
  );
}
