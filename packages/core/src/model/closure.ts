/** Why nobody reaches a page at the moment, whoever they are; moments are milliseconds since 1970. */
export type Closure =
  | { readonly code: 'opens-later' | 'ended'; readonly at: number }
  | { readonly code: 'redirected'; readonly to: string };
