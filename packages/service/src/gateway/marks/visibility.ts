import { decisions, type model } from '@kleidon/core';
import { RESERVED_PREFIX } from '../../sign-in/session-cookie.ts';
import type { MarkupVisibility } from './marked-page.ts';

/**
 * What of a page its visitor sees.
 * @param address the address of the page on the site, against which its links are resolved
 * @param publicAddress where the gateway is reached, which stands for the site's own address
 */
export function visibilityFor(
  prepared: decisions.PreparedSite,
  visitor: model.Visitor,
  address: string,
  publicAddress: string,
  at: number,
): MarkupVisibility {
  const { site } = prepared;
  const seen = decisions.visibilityOf(prepared, visitor, at);
  const home = `${site.protocol}//${site.host}`;
  return {
    part: seen.part,
    onlyUsable: (menu) => site.menus.some(({ name, onlyUsable }) => name === menu && onlyUsable),
    link: (href) => {
      const base = new URL(address, home).href;
      if (href.startsWith('#') || !URL.canParse(href, base)) return true;
      const { protocol, origin, host, pathname, search, href: whole } = new URL(href, base);
      // What is no page at all, such as an e-mail address, is nobody's to refuse.
      if (!/^https?:$/.test(protocol)) return true;
      const isHere = origin === publicAddress || host === site.host;
      if (!isHere) return seen.link(whole).visible;
      return pathname.startsWith(RESERVED_PREFIX) || seen.link(pathname + search).visible;
    },
  };
}
