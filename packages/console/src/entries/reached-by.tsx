import { Fragment } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { countPages } from '@kleidon/client';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import css from './reached-by.module.css';
import layout from '../style/layout.module.css';

interface Props {
  readonly site: string;
  readonly state: string;
  readonly visitor: string;
  /** What decides the answer besides. */
  readonly version: string;
}

/** Everything that a visitor reaches, and where everything else leaves them. */
export function ReachedByView({ site, state, visitor, version }: Props) {
  const found = useQuery({
    queryKey: ['reached by', site, version, visitor],
    queryFn: () => client.reachedBy(site, { as: visitor, state }),
  });
  const landings = useQuery({
    queryKey: ['landings', site, version, visitor],
    queryFn: () =>
      Promise.all(
        (['sign-in', 'sign-out'] as const).map((after) =>
          client.landing(site, { as: visitor, state, after }),
        ),
      ),
  });
  const seen = useQuery({
    queryKey: ['menus', site, version, visitor],
    queryFn: () => client.visible(site, { as: visitor, state, links: [] }),
  });
  if (found.error)
    return <Failure error={found.error} retry={() => void found.refetch()} site={site} />;
  if (!found.data) return <Waiting what="what they reach" />;
  const { reached, others } = found.data;
  const visit = (address: string): string =>
    `/sites/${site}/reach/address?${new URLSearchParams({ address, as: visitor, ...(state === 'draft' ? {} : { state }) }).toString()}`;
  return (
    <section className={css.reached} aria-label={`What ${visitor} reaches`}>
      <h2>
        Reaches {countPages(reached)} of {countPages([...reached, ...others])} pages
      </h2>
      {landings.data?.map(({ after, address, visit: { outcome } }) => (
        <p key={after}>
          After {after} they land at <code>{address}</code> <OutcomeTag outcome={outcome} />
        </p>
      ))}
      {seen.data?.menus.map(({ name, links }) => (
        <p key={name}>
          Menu {name}:{' '}
          {links.map(({ address, visible }, i) => (
            <Fragment key={address}>
              {i > 0 && ', '}
              <code>{address}</code>
              {!visible && <span className={layout.quiet}> (hidden)</span>}
            </Fragment>
          ))}
        </p>
      ))}
      <details>
        <summary>Those reached</summary>
        <ul className={layout.plain}>
          {reached.map(({ example, title, where, fullAccess }) => (
            <li key={`${example} ${where}`}>
              <Link to={visit(example)}>
                <code>{example}</code>
              </Link>{' '}
              <span className={layout.quiet}>
                {title}
                {where !== null && `, where ${where}`}
                {fullAccess && ', by full access'}
              </span>
            </li>
          ))}
        </ul>
      </details>
      <details open>
        <summary>Where the other {others.length} leave them</summary>
        <ul className={layout.plain}>
          {others.map(({ example, where, outcome, status, final }) => (
            <li key={`${example} ${where} ${outcome}`}>
              <Link to={visit(example)}>
                <code>{example}</code>
              </Link>{' '}
              <OutcomeTag outcome={outcome} status={status} />{' '}
              {final !== example && (
                <>
                  at <code>{final}</code>
                </>
              )}
              {where !== null && <span className={layout.quiet}>where {where}</span>}
            </li>
          ))}
        </ul>
      </details>
    </section>
  );
}
