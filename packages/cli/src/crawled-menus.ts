import type { proposals } from '@kleidon/core';
import type { Crawled } from '@kleidon/probe';

interface Seen {
  readonly label: string;
  readonly links: readonly string[];
  readonly on: string[];
}

const LEAST_PAGES = 3;
const MOST_MENUS = 20;

/**
 * The menus of a site: navigation with the same links on several pages. A menu that stands in one
 * section only is proposed for that section.
 */
export function menusOf({ menus, pages }: Crawled, origin: string): proposals.Addition[] {
  const seen = new Map<string, Seen>();
  for (const { on, menus: onPage } of menus) {
    for (const { label, links } of onPage) {
      const paths = links.map((link) => pathOf(link, origin));
      const key = paths.join(' ');
      const known = seen.get(key);
      if (known) known.on.push(on);
      else seen.set(key, { label, links: [...new Set(paths)], on: [on] });
    }
  }
  const there = new Set(pages.map(({ address }) => address));
  const taken = new Set<string>();
  return [...seen.values()]
    .filter(({ on }) => on.length >= LEAST_PAGES)
    .sort((a, b) => b.on.length - a.on.length)
    .slice(0, MOST_MENUS)
    .map(({ label, links, on }): proposals.Addition => {
      const name = freeName(label, taken);
      const section = sectionOf(on);
      const isSection = section !== '/' && there.has(section);
      return { section: 'menus', name, value: { ...(isSection ? { on: section } : {}), links } };
    });
}

function pathOf(link: string, origin: string): string {
  const url = new URL(link);
  return url.origin === origin ? url.pathname + url.search : url.href;
}

function freeName(label: string, taken: Set<string>): string {
  const plain =
    label
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-|-$/g, '') || 'menu';
  let name = plain;
  for (let i = 2; taken.has(name); i++) name = `${plain}-${i}`;
  taken.add(name);
  return name;
}

/** The longest address of which all these are at or beneath. */
function sectionOf(addresses: readonly string[]): string {
  const [first = '', ...others] = addresses.map((address) => address.split('/'));
  const steps = [...first];
  const isShared = (count: number): boolean =>
    others.every((other) => steps.slice(0, count).every((step, i) => step === other[i]));
  let shared = steps.length;
  while (shared > 1 && !isShared(shared)) shared--;
  return steps.slice(0, shared).join('/') || '/';
}
