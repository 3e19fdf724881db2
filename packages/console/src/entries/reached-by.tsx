import { Fragment } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { countPages, type MadeUpVisitor } from '@kleidon/client';
import { client } from '../client.ts';
import { visitAddress } from '../visit/visit-address.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import css from './reached-by.module.css';
import layout from '../style/layout.module.css';

interface Props {
  readonly site: string;
  readonly state: string;
  /** A visitor of the site file; with `madeUp`, what whoever is made up is called. */
  readonly visitor: string;
  readonly madeUp?: MadeUpVisitor;
  /** The moment; now, if not said. */
  readonly at?: string;
  /** What decides the answer besides. */
  readonly version: string;
}

/** Everything that a visitor reaches, and where everything else leaves them. */
export function ReachedByView({ site, state, visitor, madeUp, at, version }: Props) {
  const who = madeUp ? { visitor: madeUp } : { as: visitor };
  const asked = { ...who, state, ...(at ? { at } : {}) };
  const key = [site, version, asked];
  const found = useQuery({
    queryKey: ['reached by', ...key],
    queryFn: () => client.reachedBy(site, asked),
  });
  const landings = useQuery({
    queryKey: ['landings', ...key],
    queryFn: () =>
      Promise.all(
        (['sign-in', 'sign-out'] as const).map((after) =>
          client.landing(site, { ...asked, after }),
        ),
      ),
  });
  const seen = useQuery({
    queryKey: ['menus', ...key],
    queryFn: () => client.visible(site, { ...asked, links: [] }),
  });
  if (found.error)
    return <Failure error={found.error} retry={() => void found.refetch()} site={site} />;
  if (!found.data) return <Waiting what="what they reach" />;
  const { reached, others } = found.data;
  const visit = (address: string): string => visitAddress(site, address, asked);
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
