/** A value that a visitor's attribute can have. */
export type Attribute = string | number | boolean | readonly (string | number)[];

/** One purchase of a product by a visitor; times in milliseconds since 1970, null where open. */
export interface Purchase {
  readonly product: string;
  readonly from: number | null;
  readonly until: number | null;
  readonly refunded: boolean;
  readonly paused: boolean;
}

/** Who is asking. A guest has no id, roles, groups or purchases. */
export interface Visitor {
  readonly name: string;
  readonly title: string;
  readonly guest: boolean;
  readonly id: string | null;
  readonly roles: readonly string[];
  readonly groups: readonly string[];
  readonly bought: readonly Purchase[];
  readonly attributes: Readonly<Record<string, Attribute>>;
  readonly language: string | null;
  /** What makes this visitor who they are, in a few words: “guest”, “volunteer”, “hide-permit”. */
  readonly summary: string;
}

/** A guest about whom nothing else is known. */
export const GUEST: Visitor = {
  name: 'guest',
  title: 'Guest',
  guest: true,
  id: null,
  roles: [],
  groups: [],
  bought: [],
  attributes: {},
  language: null,
  summary: 'guest',
};
