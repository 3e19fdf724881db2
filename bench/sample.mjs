/** Sites of any size for the benchmarks, the same each time. */
const SECTIONS = ['news', 'birds', 'visit', 'shop', 'course', 'journal', 'events', 'members'];

export const pageAt = (i) => `/${SECTIONS[i % 8]}/section-${i % 97}/page-${i}`;
export const redirectAt = (i) =>
  i % 10 === 0 ? `/old-${i}/thing` : `/old/${SECTIONS[i % 8]}/item-${i}`;

/** A site file with as many pages as redirects; every tenth redirect is a family of addresses. */
export function siteFile(size) {
  const lines = [
    'kleidon: 1',
    'site: { name: Bench, address: https://bench.example, sign-in: /sign-in }',
    'roles: { crew: Helps }',
    'pages:',
    '  /sign-in: Sign in',
    ...count(size, (i) => `  ${pageAt(i)}: Page ${i}`),
    'gates:',
    '  crew: { under: /members/section-7, admit: role crew }',
    '  private: { under: "/shop/:section/private", admit: signed-in }',
    'redirects:',
    ...count(size, (i) =>
      i % 10 === 0
        ? `  - { from: "/old-${i}/*", to: "/${SECTIONS[i % 8]}/*" }`
        : `  - { from: ${redirectAt(i)}, to: ${pageAt(i)} }`,
    ),
    'visitors:',
    '  gale: { guest: yes }',
    '  vik: { roles: [crew] }',
  ];
  return lines.join('\n');
}

export const count = (size, make) => Array.from({ length: size }, (_, i) => make(i));
