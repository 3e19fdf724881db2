import type { ReactNode } from 'react';
import { Link } from 'react-router';
import css from './overview.module.css';

/** Something that one looks at first, and the page with all of it. */
export function Card({
  title,
  to,
  more,
  children,
}: {
  title: string;
  to: string;
  more: string;
  children: ReactNode;
}) {
  return (
    <section className={css.card} aria-label={title}>
      <h2>{title}</h2>
      {children}
      <p>
        <Link to={to}>{more}</Link>
      </p>
    </section>
  );
}
