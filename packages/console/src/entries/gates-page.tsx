import { clsx } from 'clsx';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { ListedGate } from '@kleidon/client';
import { client } from '../client.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import { EntriesPage } from './entries-page.tsx';
import { GateSentence } from './gate-sentence.tsx';
import css from './gates-page.module.css';
import { GATES } from './sections.ts';
import layout from '../style/layout.module.css';

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
      <ul className={clsx(layout.plain, css.covered)}>
        {pages.map((address) => (
          <li key={address}>
            <Link to={`/sites/${site}/pages?${new URLSearchParams({ page: address }).toString()}`}>
              <code>{address}</code>
            </Link>{' '}
            <span className={layout.quiet}>{words.get(address) ?? ''}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
