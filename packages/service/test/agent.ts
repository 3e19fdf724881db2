import { CookieJar } from 'tough-cookie';

export interface Page {
  readonly url: string;
  readonly status: number;
  readonly location: string | null;
  readonly headers: Headers;
  readonly text: string;
}

/** As much of a browser as a sign-in needs: it keeps cookies, and follows redirects where it is told to. */
export interface Agent {
  readonly jar: CookieJar;
  ask(url: string, init?: RequestInit): Promise<Page>;
  /** Follows every redirect; gives all pages on the way, the last one last. */
  follow(url: string, init?: RequestInit): Promise<Page[]>;
}

export function agent(): Agent {
  const jar = new CookieJar();
  const ask = async (url: string, init: RequestInit = {}): Promise<Page> => {
    const cookie = await jar.getCookieString(url);
    const response = await fetch(url, {
      redirect: 'manual',
      ...init,
      headers: { ...(cookie === '' ? {} : { Cookie: cookie }), ...init.headers },
    });
    for (const one of response.headers.getSetCookie())
      await jar.setCookie(one, url, { ignoreError: true });
    const location = response.headers.get('Location');
    return {
      url,
      status: response.status,
      location: location === null ? null : new URL(location, url).href,
      headers: response.headers,
      text: await response.text(),
    };
  };
  return {
    jar,
    ask,
    follow: async (url, init) => {
      const pages = [await ask(url, init)];
      for (let last = pages[0]!; last.location !== null && pages.length < 20;) {
        last = await ask(last.location);
        pages.push(last);
      }
      return pages;
    },
  };
}
