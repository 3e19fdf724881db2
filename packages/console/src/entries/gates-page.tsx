import { Fragment, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { ListedGate } from '@kleidon/client';
import { client } from '../client.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import { EntriesPage } from './entries-page.tsx';
import css from './gates-page.module.css';
import { GATES } from './sections.ts';

/** The gates as sentences, each part of which leads to its field; beside a gate, the pages that it covers. */
export function GatesPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const listed = useQuery({
    queryKey: ['gates', site.id, pending.key, pending.state],
    queryFn: () => client.gates(site.id, pending.state),
  });
  const pages = useQuery({
    queryKey: ['page list', site.id, pending.key, pending.state],
    queryFn: () => client.pages(site.id, pending.state),
  });
  const gates = new Map((listed.data ?? []).map((gate) => [gate.name, gate]));
  const words = new Map((pages.data ?? []).map(({ address, words }) => [address, words]));
  return (
    <EntriesPage
      section={GATES}
      // Where the site file has errors nothing is known of a gate but its fields.
      sentence={
        listed.error || !listed.data
          ? undefined
          : (name) => {
              const gate = gates.get(name);
              return gate && <GateSentence gate={gate} site={site.id} />;
            }
      }
      beneath={(name) => {
        const gate = gates.get(name);
        return gate && <CoveredPages gate={gate} words={words} site={site.id} />;
      }}
    />
  );
}

const gateAt = (site: string, name: string, field?: string): string =>
  `/sites/${site}/access/gates?${new URLSearchParams({ name, ...(field ? { field } : {}) }).toString()}`;

/** Where a gate stands, whom it admits, and what happens to everyone else. */
function GateSentence({ gate, site }: { gate: ListedGate; site: string }) {
  const { name, right, scopes, admits, otherwise, narrows, fullAccess, above, inside } = gate;
  const part = (field: string, content: ReactNode) => (
    <Link className={css.part} to={gateAt(site, name, field)}>
      {content}
    </Link>
  );
  return (
    <div className={css.sentence}>
      {part(scopes[0]?.includes(' ') ? 'under' : 'at', scopes.join(', '))}
      {right === 'change' && <> ({part('right', 'to change it')})</>}: admits{' '}
      {part('admit', admits)}
      {'. '}
      {otherwise.length > 0 && (
        <>
          Everyone else:{' '}
          {part(
            'otherwise',
            otherwise
              .map(({ who, what }) => (who === 'everyone' ? what : `${who}, ${what}`))
              .join('; all others '),
          )}
          {'. '}
        </>
      )}
      {narrows && <>{part('narrows', 'The gate above must admit too')}. </>}
      {!fullAccess && <>{part('full-access', 'Full access does not pass')}. </>}
      {!gate.isInForce && <strong>Not in force now. </strong>}
      {above.length > 0 && <Gates label="Inside" names={above} site={site} />}
      {inside.length > 0 && <Gates label="Exceptions" names={inside} site={site} />}
    </div>
  );
}

function Gates({ label, names, site }: { label: string; names: readonly string[]; site: string }) {
  return (
    <span className="quiet">
      {label}:{' '}
      {names.map((name, i) => (
        <Fragment key={name}>
          {i > 0 && ', '}
          <Link to={gateAt(site, name)}>{name}</Link>
        </Fragment>
      ))}
      .{' '}
    </span>
  );
}

/** The pages beneath a gate, with who reaches each of them: where that differs, a nearer gate decides. */
function CoveredPages({
  gate: { pages },
  words,
  site,
}: {
  gate: ListedGate;
  words: ReadonlyMap<string, string>;
  site: string;
}) {
  return (
    <section aria-label="Pages that it covers">
      <h2>
        Covers {pages.length} {pages.length === 1 ? 'page' : 'pages'}
      </h2>
      <ul className="plain">
        {pages.map((address) => (
          <li key={address}>
            <Link to={`/sites/${site}/pages?${new URLSearchParams({ page: address }).toString()}`}>
              <code>{address}</code>
            </Link>{' '}
            <span className="quiet">{words.get(address) ?? ''}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
