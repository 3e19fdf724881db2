import { NavLink } from 'react-router';

interface Props {
  readonly label: string;
  readonly tabs: readonly (readonly [address: string, title: string])[];
}

/** The sections that share a page, each with an address of its own. */
export function SectionTabs({ label, tabs }: Props) {
  return (
    <nav className="tabs" aria-label={label}>
      {tabs.map(([address, title]) => (
        <NavLink key={address} end to={address}>
          {title}
        </NavLink>
      ))}
    </nav>
  );
}
