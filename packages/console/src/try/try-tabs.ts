/** The two ways of trying addresses. */
export const tryTabs = (site: string): readonly (readonly [string, string])[] => [
  [`/sites/${site}/try`, 'One address'],
  [`/sites/${site}/try/list`, 'A list'],
];
