import type { decisions } from '@kleidon/core';
import { VISITOR_FIELD, type VisitorProof } from '../sign-in/visitor-proof.ts';
import { hasParts, type Exchange } from './exchange.ts';
import {
  forwardedBy,
  forwardedFields,
  forwardedNames,
  valuesOf,
  without,
  type RawFields,
} from './origin/fields.ts';

/** Whom the website, or another server, is asked for. */
export type Requester = Pick<Exchange, 'request' | 'client' | 'visitor' | 'site'>;

/**
 * The fields with which a server is asked.
 * @param isSite whether it is the website itself; other servers get no cookies and no credentials
 */
export type OriginFields = (
  by: Requester,
  host: string,
  isSite: boolean,
) => RawFields | Promise<RawFields>;

/**
 * @param home where visitors reach the gateway
 * @param allowed names of fields of requests that go on although they look like those that claim who is asking
 */
export function originFieldsBy(
  proof: VisitorProof,
  home: () => URL,
  allowed: readonly string[],
  now: () => number,
): OriginFields {
  const isForwarded = forwardedNames(allowed);
  return ({ request, client, visitor, site }, host, isSite) => {
    const by = forwardedBy(client.address, home().host, client.protocol.slice(0, -1));
    const fields = forwardedFields(request.rawHeaders, isForwarded, isSite);
    fields.push('Host', host, 'Forwarded', by);
    if (visitor.guest) return fields;
    return proof.of(visitor, site.site, `https://${host}`, now()).then((token) => {
      if (token !== null) fields.push(VISITOR_FIELD, token);
      return fields;
    });
  };
}

/** A page that stands for another one is asked for as a whole. */
export const withoutConditions = (fields: RawFields): RawFields =>
  without(fields, /^(?:if-.*|range|content-.*)$/i);

/** What is asked for is something that can be read: in a coding that can be decoded, and in one piece. */
export const readable = (fields: RawFields, site: decisions.PreparedSite): RawFields =>
  withKnownCodings(withOneRange(fields, site));

/**
 * Several ranges come as several contents in one, in which nothing can be told from parts; and whether anything
 * is there at all is for the rules to say. A server may ignore what is asked for here (RFC 9110, 14.2).
 */
function withOneRange(fields: RawFields, site: decisions.PreparedSite): RawFields {
  if (!hasParts(site)) return fields;
  const several = valuesOf(fields, 'range').join(',').includes(',');
  const any = valuesOf(fields, 'if-none-match').join(',').includes('*');
  return several || any ? without(fields, /^(?:if-none-match|if-range|range)$/i) : fields;
}

/** Pages may have marks: they are asked for in codings that can be decoded. */
export function withKnownCodings(fields: RawFields): RawFields {
  const name = 'accept-encoding';
  for (let i = 0; i < fields.length; i += 2) {
    if (fields[i]!.length !== name.length || fields[i]!.toLowerCase() !== name) continue;
    const known = fields[i + 1]!.split(',').filter((one) =>
      /^\s*(?:gzip|br|identity)\s*(?:;|$)/i.test(one),
    );
    fields[i + 1] = known.join(',') || 'identity';
  }
  return fields;
}
