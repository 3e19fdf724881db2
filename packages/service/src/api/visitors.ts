import { readVisitor, type PreparedSite, type Visitor } from '@kleidon/core';
import { Problem } from './problem.ts';

/** The visitor that a request asks about: one of the site file, or one made up on the spot. */
export function visitorFrom(
  asked: { as?: string | undefined; visitor?: object | undefined },
  prepared: PreparedSite,
): Visitor {
  return asked.visitor ? madeUp(asked.visitor, prepared) : named(asked.as, prepared);
}

function madeUp(entry: object, prepared: PreparedSite): Visitor {
  const read = readVisitor(JSON.stringify(entry), prepared.site);
  if (read.ok) return read.visitor;
  throw new Problem(
    'wrong-request',
    read.errors.map(({ message, remedy }) => `${message} ${remedy}`).join(' '),
    {
      errors: read.errors.map(({ message, remedy }) => ({
        pointer: '/visitor',
        message: `${message} ${remedy}`,
      })),
    },
  );
}

/** A visitor of the site file. Throws `no-such-visitor`. */
export function named(name: string | undefined, { site }: PreparedSite): Visitor {
  const known = site.visitors.map((visitor) => visitor.name);
  if (name === undefined)
    throw new Problem('wrong-request', 'Say who visits: "as" or "visitor" is missing.');
  const visitor = site.visitors.find((one) => one.name === name);
  if (visitor) return visitor;
  throw new Problem(
    'no-such-visitor',
    `No visitor is called "${name}". Known: ${known.join(', ')}.`,
  );
}
