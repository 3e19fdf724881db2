import { Fragment } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { queries } from '@kleidon/core';
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

/** Which addresses of a page with a pattern are meant. The example may be made up, so that it is linked and not shown. */
const placesOf = ({ within, where }: queries.ReachedPage): string[] => [
  ...(within.length > 0 ? [`at ${within.join(' and ')}`] : []),
  ...(where === null ? [] : [`where ${where}`]),
];

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
          {reached.map((page) => (
            <li key={`${page.example} ${page.where}`}>
              <Link to={visit(page.example)}>
                <code>{page.address}</code>
              </Link>{' '}
              <span className={layout.quiet}>
                {[page.title, ...placesOf(page)].join(', ')}
                {page.fullAccess && ', by full access'}
              </span>
            </li>
          ))}
        </ul>
      </details>
      <details open>
        <summary>Where the other {others.length} leave them</summary>
        <ul className={layout.plain}>
          {others.map((page) => (
            <li key={`${page.example} ${page.where} ${page.outcome}`}>
              <Link to={visit(page.example)}>
                <code>{page.address}</code>
              </Link>{' '}
              <OutcomeTag outcome={page.outcome} status={page.status} />{' '}
              {page.final !== page.example && (
                <>
                  at <code>{page.final}</code>{' '}
                </>
              )}
              <span className={layout.quiet}>{placesOf(page).join(', ')}</span>
            </li>
          ))}
        </ul>
      </details>
    </section>
  );
}
