import type { Otherwise } from '../model/site.ts';

/** Says what happens to those whom a gate does not admit, after “they are”. */
export function describeOtherwise(otherwise: Otherwise): string {
  switch (otherwise.do) {
    case 'sign-in':
      return 'asked to sign in, and taken back afterwards';
    case 'offer':
      return 'offered the products that would admit them';
    case 'hide':
      return 'told that there is no such page';
    case 'refuse':
      return otherwise.show === null
        ? `refused${otherwise.say === null ? '' : `: “${otherwise.say}”`}`
        : `refused, and shown ${otherwise.show}`;
    case 'send':
      return `sent to ${otherwise.to}`;
  }
}
